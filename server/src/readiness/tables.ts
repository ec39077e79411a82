/** Rules by which pools are kept ready, and what is done for it at the moment. Units are in the names. */
import type { Selectable } from 'kysely';
import type { Errand } from '@vatline/core/pool/errand';
import type { Tables } from '../platform/tables.ts';

declare module '../platform/tables.ts' {
  interface Tables {
    readiness: {
      pool_id: string;
      /** `ReadinessRules`. */
      rules_json: string;
      /** 1 where they are kept to; 0 where they were only written down. */
      is_kept: number;
      revision: number;
      kept_ms: number | null;
    };
    host_errand: { host_id: string; pool_id: string; errand: Errand; begun_ms: number };
    readiness_note: { pool_id: string; at_ms: number; text: string };
  }
}

export type ErrandRow = Selectable<Tables['host_errand']>;
