/** What agents install, and what they reported. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { Generated, Selectable } from 'kysely';
import type { ReportState } from '@vatline/contract/installation';
import type { Tables } from '../platform/tables.ts';

declare module '../platform/tables.ts' {
  interface Tables {
    installation: {
      id: string;
      name: string;
      version: string;
      installation_json: string;
      archive_digest: string | null;
      archive_bytes: number | null;
      archive_files: number | null;
      created_ms: number;
      revision: Generated<number>;
    };
    install_report: {
      installation_id: string;
      host: string;
      state: ReportState;
      code: number | null;
      why: string;
      /** When it ended, or when its agent is to begin. */
      at_ms: number;
    };
  }
}

export type InstallationDbRow = Selectable<Tables['installation']>;
