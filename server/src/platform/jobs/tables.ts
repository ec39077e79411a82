/** Jobs, their steps, logs and ledgers. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { Generated, Selectable } from 'kysely';
import type { Role } from '@vatline/core/roles';
import type { JobState, StepState, LedgerState } from '@vatline/contract/job';
import type { Tables } from '../tables.ts';

declare module '../tables.ts' {
  interface Tables {
    job: {
      id: string;
      kind: string;
      title: string;
      subject: string;
      state: JobState;
      input_json: string;
      error: string | null;
      cancel: number;
      /** Set while it is to stop before its next step, or has. */
      pause: number;
      /** 1 once what it made was taken back. */
      undone: Generated<number>;
      /** Who started it; null where a schedule did. */
      by_role: Role | null;
      created_ms: number;
      ended_ms: number | null;
      /** By when it was to be done, where something was promised. */
      promised_ms: Generated<number | null>;
    };
    job_step: {
      job_id: string;
      number: number;
      title: string;
      state: StepState;
      progress: number;
      started_ms: number | null;
      ended_ms: number | null;
    };
    job_log: { id: Generated<number>; job_id: string; step: number; at_ms: number; text: string };
    ledger: {
      job_id: string;
      number: number;
      object: string;
      system: string;
      state: LedgerState;
      key: string;
      detail: string;
      attempts: number;
      /** Since when an outside system is waited for, and until when; null where nothing is. */
      waits_since_ms: Generated<number | null>;
      waits_until_ms: Generated<number | null>;
    };
  }
}

export type JobRow = Selectable<Tables['job']>;
