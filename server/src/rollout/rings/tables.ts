/** Orders of rings, rollouts through them, and what was said and decided at each gate. Units are in the names: `_ms` instants. */
import type { Generated, Selectable } from 'kysely';
import type { RingState, StagedState } from '@vatline/contract/rings/staged';
import type { Role } from '@vatline/core/roles';
import type { Decision, Verdict } from '@vatline/core/rollout/rings/gate';
import type { Tables } from '../../platform/tables.ts';

/** What a ring is to be, the same wherever one is kept. */
export interface PlannedRingColumns {
  /** From 0. */
  number: number;
  name: string;
  pool_id: string;
  /** `Take`. */
  take_json: string;
  plan_id: string;
  /** Of the gate behind it. */
  finished_share: number;
  soak_hours: number;
  needs_approval: number;
  watches_sign_ins: number;
  goes_back: number;
}

declare module '../../platform/tables.ts' {
  interface Tables {
    ring_order: { id: string; name: string };
    ring_order_revision: { order_id: string; number: number; at_ms: number; by_role: Role | null };
    planned_ring: PlannedRingColumns & { order_id: string; revision: number };
    staged_rollout: {
      id: string;
      title: string;
      /** Null once the order was forgotten, and for what follows a cut. */
      order_id: string | null;
      order_revision: number | null;
      /** Null leaves each pool its image. */
      image_version_id: string | null;
      /** 1 where a schedule began it after a cut. */
      follows_cut: number;
      by_role: Role | null;
      state: StagedState;
      held_why: string;
      /** Since when a gate waits for an approval. */
      asks_ms: number | null;
      /** The first ring does not begin before. */
      not_before_ms: number;
      started_ms: number;
      ended_ms: number | null;
      promised_ms: number | null;
      seed: number;
    };
    staged_package: { staged_id: string; place: number; package_version_id: string };
    ring: PlannedRingColumns & {
      id: string;
      staged_id: string;
      state: RingState;
      rollout_id: string | null;
      /** Why it cannot begin although its gate is open; or why it was dropped. */
      note: string;
      /** When its gate let it begin. */
      began_ms: number | null;
      /** As forecast when the whole began. */
      promised_opens_ms: number | null;
      promised_p10_ms: number | null;
      promised_p50_ms: number | null;
      promised_p90_ms: number | null;
    };
    /** What the gate behind a ring said each time it said something else. */
    gate: { id: Generated<number>; ring_id: string; at_ms: number; verdict: Verdict['do']; why: string };
    gate_decision: {
      id: Generated<number>;
      ring_id: string;
      at_ms: number;
      what: Decision;
      by_role: Role | null;
      why: string;
    };
  }
}

export type StagedRow = Selectable<Tables['staged_rollout']>;
export type RingRow = Selectable<Tables['ring']>;
export type DecisionRow = Selectable<Tables['gate_decision']>;
