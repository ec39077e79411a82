/** Rollouts through rings in the database, and how each of their rings stands. */
import type { PlannedRing, RolloutContents } from '@vatline/contract/rings/ring';
import {
  gateVerdict,
  hostsNeeded,
  soakedAt,
  type RingStanding,
  type Verdict,
} from '@vatline/core/rollout/rings/gate';
import {
  slowerInWords,
  unjudgedInWords,
  type SignInHealth,
} from '@vatline/core/rollout/rings/sign-in-health';
import { stopsFor } from '@vatline/core/rollout/failure-rule';
import type { Instant } from '@vatline/core/time/instant';
import type { Parts } from '../../platform/parts.ts';
import { notFound } from '../../platform/problem.ts';
import type { Plans } from '../plans.ts';
import type { RolloutStore, StageCounts } from '../store.ts';
import type { RolloutRow } from '../tables.ts';
import { plannedRings } from './planned-rings.ts';
import { signInsAfter } from './sign-ins.ts';
import type { DecisionRow, RingRow, StagedRow } from './tables.ts';

/** A ring with everything that its gate asks for. */
export interface RingNow {
  readonly row: RingRow;
  readonly planned: PlannedRing;
  readonly rollout: RolloutRow | undefined;
  readonly counts: StageCounts;
  readonly standing: RingStanding;
  readonly decisions: readonly DecisionRow[];
  readonly health: SignInHealth | null;
  /** What the gate behind it says. */
  readonly verdict: Verdict;
}

export interface StagedNow {
  readonly row: StagedRow;
  readonly contents: RolloutContents;
  readonly rings: readonly RingNow[];
}

const noHosts: StageCounts = { hosts: 0, waiting: 0, atWork: 0, done: 0, failed: 0, setAside: 0, lost: 0 };

export class StagedStore {
  constructor(
    private readonly parts: Parts,
    private readonly plans: Plans,
    private readonly rollouts: RolloutStore,
  ) {}

  async staged(id: string): Promise<StagedRow> {
    const row = await this.parts.db
      .selectFrom('staged_rollout')
      .selectAll()
      .where('id', '=', id)
      .executeTakeFirst();
    if (!row) throw notFound('such rollout through rings');
    return row;
  }

  open(): Promise<StagedRow[]> {
    return this.parts.db
      .selectFrom('staged_rollout')
      .selectAll()
      .where('ended_ms', 'is', null)
      .orderBy('started_ms')
      .execute();
  }

  /** Newest first. */
  newest(limit: number): Promise<StagedRow[]> {
    return this.parts.db
      .selectFrom('staged_rollout')
      .selectAll()
      .orderBy('started_ms', 'desc')
      .orderBy('id')
      .limit(limit)
      .execute();
  }

  /** Those that may go on when something happened to a rollout: it is one of theirs, or its pool is free now. */
  async concernedBy(rolloutId: string): Promise<string[]> {
    const { pool_id, ended_ms } = await this.rollouts.rollout(rolloutId);
    const rows = await this.parts.db
      .selectFrom('ring')
      .innerJoin('staged_rollout', 'staged_rollout.id', 'ring.staged_id')
      .select('staged_id as id')
      .distinct()
      .where('staged_rollout.ended_ms', 'is', null)
      .where((eb) =>
        eb.or([
          eb('rollout_id', '=', rolloutId),
          ...(ended_ms === null
            ? []
            : [eb.and([eb('pool_id', '=', pool_id), eb('ring.state', '=', 'waiting')])]),
        ]),
      )
      .execute();
    return rows.map((row) => row.id);
  }

  ringRows(stagedId: string): Promise<RingRow[]> {
    return this.parts.db
      .selectFrom('ring')
      .selectAll()
      .where('staged_id', '=', stagedId)
      .orderBy('number')
      .execute();
  }

  async contentsOf({ id, image_version_id }: StagedRow): Promise<RolloutContents> {
    const rows = await this.parts.db
      .selectFrom('staged_package')
      .select('package_version_id as id')
      .where('staged_id', '=', id)
      .orderBy('place')
      .execute();
    return { imageVersionId: image_version_id, packageVersionIds: rows.map((row) => row.id) };
  }

  async now(row: StagedRow): Promise<StagedNow> {
    const rows = await this.ringRows(row.id);
    const planned = await plannedRings(this.plans, rows);
    const at = this.parts.estate.clock.now();
    const rings = await Promise.all(
      rows.map((ring, i) => {
        const next = rows[i + 1];
        return this.ringNow(ring, planned[i] as PlannedRing, next, at);
      }),
    );
    return { row, contents: await this.contentsOf(row), rings };
  }

  private async ringNow(
    row: RingRow,
    planned: PlannedRing,
    next: RingRow | undefined,
    at: Instant,
  ): Promise<RingNow> {
    const rollout = row.rollout_id === null ? undefined : await this.rollouts.rollout(row.rollout_id);
    const counts = rollout ? await this.rollouts.counts(rollout.id) : noHosts;
    const decisions = await this.decisions(row.id);
    const last = decisions.at(-1);
    const reachedAt = await this.reachedAt(row, counts);
    const soaked = reachedAt === null ? null : soakedAt(reachedAt, row.state, planned.gate);
    const { watchesSignIns } = planned.gate;
    const health = watchesSignIns && rollout ? await signInsAfter(this.parts, rollout, soaked) : null;
    const standing: RingStanding = {
      name: row.name,
      state: row.state,
      hosts: counts.hosts,
      done: counts.done,
      setAside: counts.setAside,
      hasEnded: rollout !== undefined && rollout.ended_ms !== null,
      isStopped: rollout?.state === 'stopped',
      isPaused: rollout !== undefined && rollout.paused_ms !== null,
      failing: failingBy(rollout, planned, counts),
      reachedAt,
      decision: last ? { what: last.what, why: last.why } : null,
      slower: (health && slowerInWords(health)) ?? null,
      unjudged: (health && unjudgedInWords(health)) ?? null,
      nextIsSamePool: next?.pool_id === row.pool_id,
      nextHasBegun: next !== undefined && (next.state === 'started' || next.state === 'done'),
    };
    const verdict = gateVerdict(standing, planned.gate, at);
    return { row, planned, rollout, counts, standing, decisions, health, verdict };
  }

  /** When the share of its gate was done. */
  private async reachedAt(row: RingRow, counts: StageCounts): Promise<Instant | null> {
    if (row.state === 'done') return row.began_ms;
    const needed = hostsNeeded(counts.hosts, row.finished_share);
    if (row.rollout_id === null || needed === 0 || counts.done < needed) return null;
    const found = await this.parts.db
      .selectFrom('rollout_host')
      .select('finished_ms')
      .where('rollout_id', '=', row.rollout_id)
      .where('stage', '=', 'done')
      .orderBy('finished_ms')
      .offset(needed - 1)
      .limit(1)
      .executeTakeFirst();
    return found?.finished_ms ?? null;
  }

  private decisions(ringId: string): Promise<DecisionRow[]> {
    return this.parts.db
      .selectFrom('gate_decision')
      .selectAll()
      .where('ring_id', '=', ringId)
      .orderBy('id')
      .execute();
  }
}

function failingBy(
  rollout: RolloutRow | undefined,
  { plan: { stop } }: PlannedRing,
  { done, lost }: StageCounts,
): string | null {
  if (!rollout || rollout.paused_ms === null || !stop) return null;
  return stopsFor({ done, failed: lost }, stop) ?? null;
}
