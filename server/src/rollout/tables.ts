/** Rollouts with their plans, and the hosts they have in their lists. Units are in the names: `_ms` instants, `_bytes` sizes. */
import type { Generated, Selectable } from 'kysely';
import type { RolloutState } from '@vatline/contract/rollout';
import type { HostWay } from '@vatline/core/rollout/blends/way';
import type { HostStage } from '@vatline/core/rollout/host-state';
import type { RecurringTakes } from '@vatline/core/rollout/recurring';
import type { Role } from '@vatline/core/roles';
import type { Tables } from '../platform/tables.ts';

declare module '../platform/tables.ts' {
  interface Tables {
    /** When hosts may be worked on, how many at a time, and with how many seats kept. Never changed. */
    plan: {
      id: string;
      /** RFC 5545 recurrence rule. */
      window_rule: string;
      /** Wall times, `HH:MM`. */
      window_start: string;
      window_end: string;
      zone: string;
      batch: number;
      max_unavailable: number;
      drain_limit_minutes: number;
      /** Fraction of the expected sessions; null keeps no seats. */
      reserve: number | null;
      /** Failures at which it is paused; null for no such number. */
      stop_failures: Generated<number | null>;
      /** Share of the hosts that are through; null for no such share. */
      stop_share: Generated<number | null>;
      /** Hosts that must be through before the share counts. */
      stop_after: Generated<number>;
      /** What people are told; null for nothing. */
      notice_text: Generated<string | null>;
      notice_minutes: Generated<number>;
    };
    /** The calendars whose closed days a plan keeps to. */
    plan_calendar: { plan_id: string; calendar_id: string };
    /** Plans of a pool that somebody thinks over; what is kept is a `RolloutRequest`. */
    kept_plan: {
      id: string;
      pool_id: string;
      name: string;
      request_json: string;
      revision: number;
      kept_ms: number;
      by_role: Role | null;
    };
    /** A rollout of a pool that comes again in every window of its plan. */
    recurring_rollout: {
      pool_id: string;
      takes: RecurringTakes;
      plan_id: string;
      revision: number;
      kept_ms: number;
      by_role: Role | null;
      /** The beginning of the last window that it has seen since it was kept. */
      handled_ms: number | null;
      last_outcome: string;
      last_refused: number;
      last_rollout_id: string | null;
    };
    rollout: {
      id: string;
      pool_id: string;
      from_blend_id: string;
      to_blend_id: string;
      state: RolloutState;
      plan_id: string;
      is_return: number;
      /** 1 where hosts are made anew, whatever they run. */
      is_remake: Generated<number>;
      /** 1 where it is for some hosts only, so that the pool as a whole goes on with what it runs. */
      is_part: Generated<number>;
      started_ms: number;
      /** From when its windows count: of a ring, from the beginning of the whole. */
      windows_from_ms: number;
      ended_ms: number | null;
      /** When it would be done, as forecast at its start: 1, 5 and 9 in 10. */
      promised_p10_ms: number | null;
      promised_p50_ms: number | null;
      promised_ms: number | null;
      /** When each fortieth of its hosts would be through, 1, 5 and 9 in 10: `Marks`. */
      promised_progress_json: Generated<string | null>;
      /** Set while hosts still at work are finished before the way back begins: its batch, 0 for the same. */
      return_batch: number | null;
      seed: number;
      /** Since when no host begins, by somebody's decision. */
      paused_ms: Generated<number | null>;
      /** Hosts that had failed when somebody let it go on: only more than these pause it again. */
      failures_seen: Generated<number>;
      /** The beginning of the window that people were told of last. */
      told_window_ms: Generated<number | null>;
    };
    /** Every change of a rollout under way; the first is the plan that it began with. */
    rollout_revision: {
      rollout_id: string;
      number: number;
      plan_id: string;
      at_ms: number;
      by_role: Role | null;
      /** What is another than before, in words. */
      says: string;
      why: string;
      /** When it was to be done then, 9 in 10. */
      expected_ms: number | null;
    };
    /** How long the work on each host of a pool took that was finished: what the next forecast learns from. */
    pool_pace: { id: Generated<number>; pool_id: string; finished_ms: number; minutes: number };
    rollout_host: {
      rollout_id: string;
      host_id: string;
      number: number;
      stage: HostStage;
      /** Chosen when its turn comes, at each attempt anew; null before the first. */
      way: HostWay | null;
      attempts: number;
      started_ms: number | null;
      /** When it was drained and the work began. */
      work_ms: number | null;
      finished_ms: number | null;
      error: string | null;
    };
  }
}

export type RolloutRow = Selectable<Tables['rollout']>;
export type RecurringRow = Selectable<Tables['recurring_rollout']>;
export type RolloutHostRow = Selectable<Tables['rollout_host']>;
export type PlanRow = Selectable<Tables['plan']>;
export type RevisionRow = Selectable<Tables['rollout_revision']>;
