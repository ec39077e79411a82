/** Who may use what. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type {} from '../platform/tables.ts';

declare module '../platform/tables.ts' {
  interface Tables {
    assignment: { id: string; group_name: string; pool_id: string; package_id: string | null };
  }
}
