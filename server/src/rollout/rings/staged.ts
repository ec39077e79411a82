/**
 * Runs rollouts through rings: each ring begins when the gate behind the one before it opens, and is
 * a rollout of its own pool from then on, so that a pilot goes first and what goes wrong there stops
 * the rest. Everything known stands in the database; a restart takes it up.
 */
import type { Decision } from '@vatline/core/rollout/rings/gate';
import { mayBegin, mayDecide } from '@vatline/core/rollout/rings/approval';
import type { PlannedRing, RolloutContents } from '@vatline/contract/rings/ring';
import { hash32 } from '@vatline/core/random';
import { HOUR, type Instant } from '@vatline/core/time/instant';
import { actingAs, whoActs } from '../../platform/acting.ts';
import { OneAtATime } from '../../platform/one-at-a-time.ts';
import type { Parts } from '../../platform/parts.ts';
import { conflict, invalid, Refusal } from '../../platform/problem.ts';
import type { RolloutEngine } from '../engine.ts';
import { forecastOf } from '../forecasting.ts';
import { startRollout } from '../start.ts';
import type { RolloutRow } from '../tables.ts';
import type { RingOrders } from './orders.ts';
import { byRing, keepStaged } from './keep-staged.ts';
import type { PlannedPart, RingPlanner } from './planner.ts';
import type { RingNow, StagedNow, StagedStore } from './staged-store.ts';
import type { RingRow, StagedRow } from './tables.ts';

const RUNS = 1_000;

/** Said behind the reason where the hosts of a ring go back by themselves. */
const GOES_BACK = '; its hosts go back';

/** What somebody decides at the gate behind a ring, having seen so many decisions. */
export interface GateDecision {
  readonly ring: number;
  readonly what: Decision;
  readonly why: string;
  readonly seen: number;
}

export class StagedRollouts {
  private readonly turn = new OneAtATime();
  /** Those that will be looked at: once is enough however often it is asked for meanwhile. */
  private readonly toLookAt = new Set<string>();

  constructor(
    private readonly parts: Parts,
    private readonly planner: RingPlanner,
    private readonly store: StagedStore,
    private readonly orders: RingOrders,
    private readonly engine: RolloutEngine,
  ) {
    engine.onLook((rollout) => {
      this.lookAround(rollout).catch((error: unknown) => this.failed(error));
    });
  }

  /** Takes up every open one after a start. */
  async resume(): Promise<void> {
    for (const row of await this.store.open()) await this.look(row.id);
  }

  /** Begins one by an order. Throws a refusal with everything that is wrong. */
  async start(orderId: string, revision: number, contents: RolloutContents): Promise<string> {
    const order = await this.orders.get(orderId);
    if (order.revision !== revision)
      throw conflict(
        `Revision ${order.revision} of ${order.name} was kept meanwhile; this is about ${revision}`,
        'revision',
      );
    const { rings } = order;
    const may = mayBegin(
      whoActs(),
      rings.map((ring) => ring.gate),
    );
    if (!may.ok) throw invalid([...may.error]);
    const notBefore = this.now;
    const options = { seed: hash32(orderId), from: notBefore };
    const planned = await this.planner.partsOf(rings, contents, options);
    const plan = this.planner.planOf(planned, { ...options, runs: RUNS, notBefore });
    const whole = await forecastOf(this.parts, plan);
    const of = byRing(planned, whole);
    const { seed } = options;
    const id = await this.parts.db.transact(async () => {
      const kept = await keepStaged(this.parts, this.planner.plans, {
        title: order.name,
        order: { id: orderId, revision },
        contents,
        rings,
        notBefore,
        followsCut: false,
        seed,
        forecast: { whole, of },
      });
      await this.note(
        kept,
        `${order.name}: ${plan.rings.length} of ${rings.length} rings have hosts to change`,
      );
      return kept;
    });
    await this.look(id);
    return id;
  }

  /** Plans the rollouts that follow the cut of a version, in a transaction of the caller's; earlier ones that have not begun are dropped. */
  async follow(
    version: { readonly id: string; readonly lineId: string; readonly line: string; readonly number: number },
    rings: readonly PlannedRing[],
    notBefore: Instant,
  ): Promise<void> {
    const title = `${version.line} ${version.number}`;
    await this.dropOvertaken(version);
    if (rings.length === 0) return;
    const id = await keepStaged(this.parts, this.planner.plans, {
      title,
      order: null,
      contents: { imageVersionId: version.id, packageVersionIds: [] },
      rings,
      notBefore,
      followsCut: true,
      seed: hash32(version.id),
    });
    this.lookSoon(id);
  }

  /** Throws a refusal where it may not be decided so, or not by whoever acts. */
  async decide(id: string, { ring: number, what, why, seen }: GateDecision): Promise<void> {
    const role = whoActs();
    if (role === undefined) throw new Error('somebody decides at a gate');
    await this.turn.run(async () => {
      const { row, rings } = await this.store.now(await this.store.staged(id));
      const ring = rings[number];
      if (!ring || number === rings.length - 1)
        throw invalid([{ path: 'ring', message: 'there is no gate behind this ring' }]);
      if (row.ended_ms !== null || row.state === 'stopped') throw conflict('This rollout has ended already');
      if (ring.row.state === 'waiting')
        throw conflict(`${ring.row.name} has not begun; there is nothing to decide behind it yet`);
      const last = ring.decisions.at(-1);
      if (ring.decisions.length !== seen && last)
        throw conflict(`Somebody decided meanwhile: ${last.what} (${last.by_role ?? 'nobody'}): ${last.why}`);
      // A ring that could not begin is held although the gate before it is open.
      const isAtHand = rings[number + 1]?.row.state === 'waiting';
      const verdict =
        row.state === 'held' && isAtHand ? ({ do: 'hold', why: row.held_why } as const) : ring.verdict;
      const may = mayDecide(what, { role, maker: row.by_role, verdict });
      if (!may.ok) throw invalid([...may.error]);
      await this.parts.db.transact(async () => {
        const decision = { ring_id: ring.row.id, at_ms: this.now, what, by_role: role, why };
        await this.parts.db.insertInto('gate_decision').values(decision).execute();
        await this.note(id, `${row.title}: the gate behind ${ring.row.name}: ${what} (${why})`);
      });
    });
    await this.look(id);
  }

  /** Begins no further ring, and starts no further host. */
  async stop(id: string, why: string): Promise<void> {
    await this.turn.run(async () => {
      const row = await this.store.staged(id);
      if (row.ended_ms !== null || row.state === 'stopped') throw conflict('This rollout has ended already');
      await this.parts.db.transact(async () => {
        await this.dropWaiting(id, why);
        await this.set(id, { state: 'stopped', held_why: why, asks_ms: null });
        await this.note(id, `${row.title}: stopped (${why})`);
      });
    });
    await this.look(id);
  }

  private get now(): Instant {
    return this.parts.estate.clock.now();
  }

  private async lookAround(rollout: RolloutRow): Promise<void> {
    const release = this.parts.estate.clock.hold();
    try {
      for (const id of await this.store.concernedBy(rollout.id)) this.lookSoon(id);
    } finally {
      release();
    }
  }

  /** Looks when what goes on now is over; the clock waits for it. */
  private lookSoon(id: string): void {
    if (this.toLookAt.has(id)) return;
    this.toLookAt.add(id);
    void this.parts.db.outside(() => this.look(id)).catch((error: unknown) => this.failed(error));
  }

  private failed(error: unknown): void {
    if (!this.parts.trouble.notice(error))
      this.parts.log.error({ err: error as Error }, 'rollout through rings failed');
  }

  /** Lets begin what may begin. What it does is nobody's doing, also where somebody asked it to look. */
  private look(id: string): Promise<void> {
    const release = this.parts.estate.clock.hold();
    return actingAs(undefined, () =>
      this.turn.run(async () => {
        this.toLookAt.delete(id);
        while (await this.step(id));
      }),
    ).finally(release);
  }

  /** Whether something changed, so that there may be more to do. */
  private async step(id: string): Promise<boolean> {
    const staged = await this.store.now(await this.store.staged(id));
    const { row, rings } = staged;
    if (row.ended_ms !== null) return false;
    this.parts.journal.tell(`staged:${id}`);
    if (row.state === 'stopped') await this.stopUnderWay(rings);
    const next = rings.find((ring) => ring.row.state === 'waiting');
    if (!next) return this.finish(staged);
    const before = rings[next.row.number - 1];
    if (!before) return this.first(staged, next);
    await this.noteVerdict(before);
    const { verdict } = before;
    if (verdict.do === 'hold') return this.hold(staged, before, verdict.why);
    if (verdict.do === 'open') return this.begin(staged, next);
    await this.waitFor(row, verdict.for);
    const again = verdict.until ?? Infinity;
    // People sign in all the time: whether it is slower shows before the soak is over.
    const check = before.planned.gate.watchesSignIns && verdict.for !== 'hosts' ? this.now + HOUR : Infinity;
    const at = Math.min(again, check);
    if (at < Infinity) this.wake(id, at);
    return false;
  }

  private async first(staged: StagedNow, ring: RingNow): Promise<boolean> {
    const { id, not_before_ms } = staged.row;
    if (this.now >= not_before_ms) return this.begin(staged, ring);
    this.wake(id, not_before_ms);
    return false;
  }

  private wake(id: string, at: Instant): void {
    this.parts.estate.clock.wakeAt(at, `staged ${id}`, () => this.look(id));
  }

  /** Begins a ring, unless it cannot begin now. */
  private async begin({ row, contents, rings }: StagedNow, { row: ring }: RingNow): Promise<boolean> {
    try {
      const planned = rings.map((one) => one.planned);
      const options = { seed: row.seed, from: row.not_before_ms };
      const part = (await this.planner.begin(planned, [ring.number], contents, options)).get(ring.number);
      if (!part) throw new Error(`there is no ring ${ring.number}`);
      await this.beginPart(row, ring, part);
      await this.waitFor(row, 'hosts');
      return true;
    } catch (error) {
      if (!(error instanceof Refusal)) throw error;
      // A rollout of this pool may be under way, whose end is heard of, or something else that passes.
      if (error.status === 409) {
        await this.setRing(ring, { note: error.message });
        this.wake(row.id, this.now + HOUR);
      } else await this.holdFor(row, `${ring.name} cannot begin: ${reasonOf(error)}`);
      return false;
    }
  }

  private async beginPart(row: StagedRow, ring: RingRow, { planned, request }: PlannedPart): Promise<void> {
    const began = { began_ms: this.now, note: '' };
    if (planned.hosts.length === 0)
      return this.setRing(ring, { ...began, state: 'done', note: 'every host runs it already' });
    const rolloutId = await startRollout(
      this.parts,
      this.planner.plans,
      request,
      (rollout_id) => this.setRing(ring, { ...began, state: 'started', rollout_id }),
      row.not_before_ms,
    );
    await this.engine.advance(rolloutId);
  }

  /** It is not held any more, and somebody is asked or not. */
  private async waitFor({ id, asks_ms }: StagedRow, what: 'hosts' | 'soak' | 'approval'): Promise<void> {
    const asks = what === 'approval' ? (asks_ms ?? this.now) : null;
    await this.set(id, { state: 'under way', held_why: '', asks_ms: asks });
  }

  private async hold({ row }: StagedNow, ring: RingNow, why: string): Promise<boolean> {
    // A ring that went back is one that was stopped: why it did says more.
    if (row.state === 'stopped' || row.held_why.endsWith(GOES_BACK)) return false;
    const { rollout, planned, standing } = ring;
    if (!planned.gate.goesBack || !rollout || standing.isStopped || standing.decision?.what === 'refuse')
      await this.holdFor(row, why);
    else {
      // Before it is held, so that after a kill it is done again: a way back that is there already is refused.
      await this.engine.goBack(rollout.id, undefined).catch((error: unknown) => {
        if (!(error instanceof Refusal)) throw error;
      });
      await this.holdFor(row, `${why}${GOES_BACK}`);
    }
    return false;
  }

  private async holdFor({ id, title, held_why }: StagedRow, why: string): Promise<void> {
    if (held_why === why) return;
    await this.parts.db.transact(async () => {
      await this.set(id, { state: 'held', held_why: why, asks_ms: null });
      await this.note(id, `${title} is held: ${why}`);
    });
    this.parts.journal.tell(`staged:${id}`);
  }

  private async stopUnderWay(rings: readonly RingNow[]): Promise<void> {
    for (const { rollout } of rings)
      if (rollout && rollout.ended_ms === null && rollout.state !== 'stopped')
        await this.engine.stop(rollout.id);
  }

  /** Ends it when no ring is under way any more; false, since nothing comes after. */
  private async finish({ row, rings }: StagedNow): Promise<boolean> {
    const isOver = rings.every(
      ({ row: { state }, rollout }) => state !== 'started' || rollout?.ended_ms !== null,
    );
    if (!isOver) return false;
    const whole = rings.every(
      ({ row: { state }, rollout }) => state === 'done' || (state === 'started' && rollout?.state === 'done'),
    );
    const state = whole ? 'done' : 'stopped';
    await this.parts.db.transact(async () => {
      await this.note(
        row.id,
        `${row.title}: ${whole ? 'through all rings' : 'ended before all rings were through'}`,
      );
      await this.set(row.id, { state, ended_ms: this.now });
    });
    this.parts.journal.tell(`staged:${row.id}`, 'line');
    return false;
  }

  /** What the gate behind a ring says, where it is not what it said last. */
  private async noteVerdict({ row, verdict }: RingNow): Promise<void> {
    const { db } = this.parts;
    const last = await db
      .selectFrom('gate')
      .select(['verdict', 'why'])
      .where('ring_id', '=', row.id)
      .orderBy('id', 'desc')
      .limit(1)
      .executeTakeFirst();
    if (last?.verdict === verdict.do && last.why === verdict.why) return;
    const said = { ring_id: row.id, at_ms: this.now, verdict: verdict.do, why: verdict.why };
    await db.insertInto('gate').values(said).execute();
  }

  private async dropOvertaken(version: { readonly lineId: string; readonly number: number }): Promise<void> {
    const rows = await this.parts.db
      .selectFrom('staged_rollout')
      .innerJoin('image_version', 'image_version.id', 'staged_rollout.image_version_id')
      .select('staged_rollout.id')
      .where('follows_cut', '=', 1)
      .where('ended_ms', 'is', null)
      .where('line_id', '=', version.lineId)
      .where('number', '<', version.number)
      .execute();
    for (const { id } of rows) {
      await this.dropWaiting(id, `version ${version.number} was cut first`);
      this.lookSoon(id);
    }
  }

  private async dropWaiting(stagedId: string, why: string): Promise<void> {
    await this.parts.db
      .updateTable('ring')
      .set({ state: 'dropped', note: why })
      .where('staged_id', '=', stagedId)
      .where('state', '=', 'waiting')
      .execute();
  }

  private async set(id: string, change: Partial<StagedRow>): Promise<void> {
    await this.parts.db.updateTable('staged_rollout').set(change).where('id', '=', id).execute();
  }

  private async setRing({ id, staged_id }: RingRow, change: Partial<RingRow>): Promise<void> {
    await this.parts.db.updateTable('ring').set(change).where('id', '=', id).execute();
    this.parts.journal.tell(`staged:${staged_id}`, 'line');
  }

  private note(id: string, text: string): Promise<void> {
    return this.parts.journal.note({
      at: this.now,
      kind: 'rollout',
      subject: `staged:${id}`,
      text,
      link: `/rollouts/staged/${id}`,
    });
  }
}

function reasonOf(error: Refusal): string {
  return error.faults[0]?.message ?? error.message;
}
