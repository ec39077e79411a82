/** Suites of options and the sheets filled from them. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { Generated } from 'kysely';

declare module '../platform/tables.ts' {
  interface Tables {
    option_suite: {
      id: string;
      name: string;
      suite_json: string;
      created_ms: number;
      revision: Generated<number>;
    };
    option_sheet: {
      suite_id: string;
      name: string;
      values_json: string;
      changed_ms: number;
      revision: Generated<number>;
    };
  }
}
