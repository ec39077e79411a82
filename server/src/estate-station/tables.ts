/** What sites were asked for. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { QuotaRequest } from '@vatline/contract/estate';

declare module '../platform/tables.ts' {
  interface Tables {
    quota_request: {
      id: string;
      site: string;
      cores: number;
      memory_bytes: number;
      graphics: number;
      text: string;
      asked_ms: number;
      state: QuotaRequest['state'];
      /** Why not; empty where it was granted. */
      answer: string;
      answered_ms: number | null;
    };
  }
}
