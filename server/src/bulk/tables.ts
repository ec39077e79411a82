/** Rows of a list that is worked through. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { BulkRowState } from '@vatline/contract/bulk';

declare module '../platform/tables.ts' {
  interface Tables {
    bulk_row: { job_id: string; number: number; what: string; state: BulkRowState; result: string };
  }
}
