/** What sites were asked for. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { SiteRequest } from '@vatline/contract/capacity';
import type { Selectable } from 'kysely';
import type { Tables } from '../platform/tables.ts';
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
    site_request: {
      id: string;
      name: string;
      provider: string;
      region: string;
      /** Pairs of a name and a range. */
      networks_json: string;
      asked_ms: number;
      state: SiteRequest['state'];
      /** Why not; empty where it was made. */
      answer: string;
      answered_ms: number | null;
    };
  }
}

export type QuotaRow = Selectable<Tables['quota_request']>;
