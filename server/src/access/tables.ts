/** Who may use what. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { TargetKind } from '@vatline/contract/access';
import type {} from '../platform/tables.ts';

declare module '../platform/tables.ts' {
  interface Tables {
    assignment: {
      id: string;
      group_name: string;
      /** Where it is given. */
      pool_id: string;
      target_kind: TargetKind;
      /** Of the pool for its desktop, else of the package. */
      target_id: string;
    };
  }
}
