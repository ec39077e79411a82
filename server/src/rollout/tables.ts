/** Rollouts, the hosts they have in their lists, and those that follow a cut. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { Generated, Selectable } from 'kysely';
import type { RolloutState } from '@vatline/contract/rollout';
import type { HostStage } from '@vatline/core/rollout/host-state';
import type { FollowUpState } from '@vatline/contract/cut-schedule';
import type { Tables } from '../platform/tables.ts';

declare module '../platform/tables.ts' {
  interface Tables {
    rollout: {
      id: string;
      pool_id: string;
      from_blend_id: string;
      to_blend_id: string;
      state: RolloutState;
      is_return: number;
      request_json: string;
      started_ms: number;
      ended_ms: number | null;
      promised_ms: number | null;
      /** Set while hosts still at work are finished before the way back begins: its batch, 0 for the same. */
      return_batch: number | null;
      seed: number;
    };
    /** How long the work on each host of a pool took that was finished: what the next forecast learns from. */
    pool_pace: { id: Generated<number>; pool_id: string; finished_ms: number; minutes: number };
    rollout_host: {
      rollout_id: string;
      host_id: string;
      number: number;
      stage: HostStage;
      attempts: number;
      started_ms: number | null;
      /** When it was drained and the work began. */
      work_ms: number | null;
      finished_ms: number | null;
      error: string | null;
    };
    follow_up: {
      id: string;
      version_id: string;
      /** Place among the rollouts that follow one cut, from 0. */
      number: number;
      pool_id: string;
      request_json: string;
      not_before_ms: number;
      /** Start of the window it waits for. */
      due_ms: number | null;
      state: FollowUpState;
      rollout_id: string | null;
      note: string;
    };
  }
}

export type RolloutRow = Selectable<Tables['rollout']>;
export type RolloutHostRow = Selectable<Tables['rollout_host']>;
export type FollowUpRow = Selectable<Tables['follow_up']>;
