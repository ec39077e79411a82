/**
 * The ledger of a job: every object it creates in every outside system, written before it is made
 * and again when it is, so that it is true whenever the job stops. A planned row without a key was
 * not begun; one with a key may be made or not, and the outside system knows by that key.
 */
import type { LedgerState } from '@vatline/contract/job';
import type { Updateable } from 'kysely';
import type { Instant } from '@vatline/core/time/instant';
import type { Db } from '../database.ts';
import type { Tables } from '../tables.ts';
import { Cancelled } from './cancelled.ts';

export interface LedgerEntry {
  readonly number: number;
  readonly object: string;
  readonly system: string;
  readonly state: LedgerState;
  readonly key: string;
  readonly detail: string;
  readonly attempts: number;
}

/** An outside system that answers by itself, and is given up when it does not. */
export interface Waits {
  readonly since: Instant;
  readonly until: Instant;
}

type Ledgered = Updateable<Tables['ledger']> & { state: LedgerState; detail: string };

export class Ledger {
  constructor(
    private readonly db: Db,
    private readonly jobId: string,
    private readonly changed: () => void,
  ) {}

  /** Writes down what is going to be made; rows that are there already stay as they are. */
  async plan(rows: readonly { object: string; system: string }[]): Promise<void> {
    const values = rows.map((row, number) => ({
      job_id: this.jobId,
      number,
      ...row,
      state: 'planned' as const,
      key: '',
      detail: '',
      attempts: 0,
    }));
    for (let i = 0; i < values.length; i += 500) {
      await this.db
        .insertInto('ledger')
        .values(values.slice(i, i + 500))
        .onConflict((c) => c.doNothing())
        .execute();
    }
    this.changed();
  }

  async rows(jobId = this.jobId): Promise<LedgerEntry[]> {
    const rows = await this.db
      .selectFrom('ledger')
      .selectAll()
      .where('job_id', '=', jobId)
      .orderBy('number')
      .execute();
    return rows;
  }

  async find(object: string, system: string): Promise<LedgerEntry> {
    const row = await this.db
      .selectFrom('ledger')
      .selectAll()
      .where('job_id', '=', this.jobId)
      .where('object', '=', object)
      .where('system', '=', system)
      .executeTakeFirstOrThrow();
    return row;
  }

  /**
   * Makes one object unless the ledger says that it is made. The key handed to `make` changes with
   * each attempt that failed, so that a retry is a new call to the outside system. `waits` is shown
   * until it is made or has failed.
   */
  async make(
    object: string,
    system: string,
    make: (key: string) => Promise<string>,
    waits?: Waits,
  ): Promise<string> {
    const row = await this.find(object, system);
    if (row.state === 'made') return row.key;
    const call = `${this.jobId}/${system}/${object}/${row.attempts}`;
    // From here on it may be there, whatever is heard of it; whoever takes it back looks under this key.
    if (row.key !== call)
      await this.set(row.number, {
        state: row.state,
        key: call,
        detail: row.detail,
        waits_since_ms: waits?.since ?? null,
        waits_until_ms: waits?.until ?? null,
      });
    try {
      const key = await make(call);
      await this.set(row.number, { state: 'made', key, detail: '' });
      return key;
    } catch (error) {
      const detail = error instanceof Error ? error.message : String(error);
      if (!(error instanceof Cancelled))
        await this.set(row.number, { state: 'failed', detail, attempts: row.attempts + 1 });
      throw error;
    }
  }

  /** Notes that an object is gone again. */
  async undone(number: number, jobId: string): Promise<void> {
    await this.db
      .updateTable('ledger')
      .set({ state: 'undone' })
      .where('job_id', '=', jobId)
      .where('number', '=', number)
      .execute();
    this.changed();
  }

  private async set(
    number: number,
    change: Pick<Ledgered, 'state' | 'detail'> & Partial<Ledgered>,
  ): Promise<void> {
    await this.db
      .updateTable('ledger')
      .set(change)
      .where('job_id', '=', this.jobId)
      .where('number', '=', number)
      .execute();
    this.changed();
  }
}
