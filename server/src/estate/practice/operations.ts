/** Operations of the practice estate: begun under a key, ended by the clock, with their effects. */
import { turnsForOthers } from '../../platform/turns.ts';
import type { Instant } from '@vatline/core/time/instant';
import { logNormal, seededRandom } from '@vatline/core/random';
import { EstateError, type EstateErrorKind, type Operation, type Operations } from '../driver/operations.ts';
import type { EstateDb, EstateTables } from './estate-database.ts';

/** What an operation does to the estate when it ends; its result may name what it made. */
export type Effect = (argument: never) => Promise<string>;

export interface Begin {
  readonly key: string;
  /** Name of the call, by which faults find it. */
  readonly call: string;
  /** The machine or host it is about. */
  readonly subject: string;
  /** Minutes it takes: median and 90th percentile, or an exact instant. */
  readonly minutes?: readonly [number, number];
  readonly readyAt?: Instant;
  readonly effect: string;
  readonly argument: unknown;
  /** It is known to fail, with this error. */
  readonly fails?: { readonly kind: EstateErrorKind; readonly message: string } | undefined;
}

type Row = EstateTables['operation'];

export class PracticeOperations implements Operations {
  private readonly effects = new Map<string, Effect>();
  private readonly listeners: ((operation: Operation) => Promise<void>)[] = [];
  /** Told of every failure of somebody who reacts; decides whether the same is done again or left. */
  onFailure: (error: unknown) => 'again' | 'go on' = () => 'again';
  /** Ended operations that not everybody has heard of, since somebody failed on it. */
  private unheard: { readonly operation: Operation; readonly from: number }[] = [];
  /** Set once the clock is there; operations and clock need one another. */
  now: () => Instant = () => 0;

  constructor(
    private readonly db: EstateDb,
    private readonly seed: string,
  ) {}

  effect<A>(name: string, apply: (argument: A) => Promise<string>): void {
    this.effects.set(name, apply as unknown as Effect);
  }

  onEnd(listener: (operation: Operation) => Promise<void>): void {
    this.listeners.push(listener);
  }

  async get(key: string): Promise<Operation | undefined> {
    const row = await this.db.selectFrom('operation').selectAll().where('key', '=', key).executeTakeFirst();
    return row && present(row);
  }

  /** Begins an operation, or gives back the one that has this key. */
  async begin(request: Begin): Promise<Operation> {
    const known = await this.get(request.key);
    if (known) return known;
    const now = this.now();
    const fault = request.fails ?? (await this.takeFault(request.call));
    const row: Row = {
      key: request.key,
      call: request.call,
      subject: request.subject,
      started_ms: now,
      ready_ms: Math.max(now, Math.round(request.readyAt ?? now + this.minutes(request) * 60_000)),
      ended_ms: null,
      state: 'running',
      effect_json: JSON.stringify([request.effect, request.argument]),
      error_kind: fault?.kind ?? null,
      error: fault?.message ?? null,
      result: '',
    };
    await this.db.insertInto('operation').values(row).execute();
    return present(row);
  }

  async callOff(key: string): Promise<void> {
    await this.db
      .updateTable('operation')
      .set({ state: 'failed', ended_ms: this.now(), error_kind: 'failed', error: 'it was called off' })
      .where('state', '=', 'running')
      .where('key', '=', key)
      .execute();
  }

  /** Lets running operations of these calls on a subject end at most so long from now. */
  async bringForward(calls: readonly string[], subject: string, ms: number): Promise<void> {
    const ready = this.now() + ms;
    await this.db
      .updateTable('operation')
      .set({ ready_ms: ready })
      .where('state', '=', 'running')
      .where('subject', '=', subject)
      .where('call', 'in', calls)
      .where('ready_ms', '>', ready)
      .execute();
  }

  async nextReady(): Promise<Instant | undefined> {
    const row = await this.db
      .selectFrom('operation')
      .select('ready_ms')
      .where('state', '=', 'running')
      .orderBy('ready_ms')
      .limit(1)
      .executeTakeFirst();
    return row?.ready_ms;
  }

  /** Ends everything that is due, in order, and waits for those who react to it. */
  async runDue(now: Instant): Promise<void> {
    for (const { operation, from } of this.unheard.splice(0)) await this.tell(operation, from);
    const due = await this.db
      .selectFrom('operation')
      .selectAll()
      .where('state', '=', 'running')
      .where('ready_ms', '<=', now)
      .orderBy('ready_ms')
      .orderBy('key')
      .execute();
    const others = turnsForOthers();
    for (const row of due) {
      await others();
      // What those before it led to may have called it off.
      if ((await this.get(row.key))?.state !== 'running') continue;
      const ended = await this.end(row);
      await this.tell(ended, 0);
    }
  }

  /** Tells the listeners from one on; of a failure that is to be repeated the rest is told next time. */
  private async tell(operation: Operation, from: number): Promise<void> {
    for (const [i, listener] of this.listeners.entries()) {
      if (i < from) continue;
      try {
        await listener(operation);
      } catch (error) {
        if (this.onFailure(error) === 'go on') continue;
        this.unheard.push({ operation, from: i });
        throw error;
      }
    }
  }

  private async end(row: Row): Promise<Operation> {
    let error: { kind: EstateErrorKind; message: string } | undefined =
      row.error === null ? undefined : { kind: row.error_kind ?? 'failed', message: row.error };
    let result = '';
    if (!error) {
      const [name, argument] = JSON.parse(row.effect_json) as [string, never];
      try {
        result = (await this.effects.get(name)?.(argument)) ?? '';
      } catch (thrown) {
        if (!(thrown instanceof EstateError)) throw thrown;
        error = { kind: thrown.kind, message: thrown.message };
      }
    }
    const change = {
      state: error ? ('failed' as const) : ('done' as const),
      ended_ms: row.ready_ms,
      result,
      error_kind: error?.kind ?? null,
      error: error?.message ?? null,
    };
    await this.db.updateTable('operation').set(change).where('key', '=', row.key).execute();
    return present({ ...row, ...change });
  }

  private minutes(request: Begin): number {
    const [median, p90] = request.minutes ?? [0, 0];
    return logNormal(seededRandom(`${this.seed}:${request.key}`), median, p90);
  }

  /** For calls that end at once: throws when a fault is switched on for them. */
  async refuseIfFaulty(call: string): Promise<void> {
    const fault = await this.takeFault(call);
    if (fault) throw new EstateError(fault.kind, fault.message);
  }

  /** A "fail next" fault of this call is used up by it; of calls begun at once only one takes it. */
  private async takeFault(call: string): Promise<{ kind: EstateErrorKind; message: string } | undefined> {
    const taken = await this.db
      .deleteFrom('fault')
      .where('id', '=', (eb) =>
        eb
          .selectFrom('fault')
          .select('id')
          .where('kind', '=', 'fail next')
          .where('target', '=', call)
          .limit(1),
      )
      .returning('id')
      .execute();
    if (taken.length === 0) return undefined;
    return { kind: 'failed', message: `the call "${call}" failed (a fault switched on for practice)` };
  }
}

function present(row: Row): Operation {
  return {
    key: row.key,
    state: row.state,
    startedAt: row.started_ms,
    endedAt: row.ended_ms,
    error:
      row.error === null || row.state === 'running'
        ? null
        : { kind: row.error_kind ?? 'failed', message: row.error },
    result: row.result,
  };
}
