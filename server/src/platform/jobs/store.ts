/** Jobs in the database. */
import type { z } from 'zod';
import type { Job, JobDetail, jobEndpoints, JobState, LedgerRow } from '@vatline/contract/job';
import type { Page } from '@vatline/contract/page';
import type { Role } from '@vatline/core/roles';
import type { Instant } from '@vatline/core/time/instant';
import { sql } from 'kysely';
import type { Db } from '../database.ts';
import { pageFrom, placeIn } from '../page.ts';
import type { JobRow } from './tables.ts';

/** At work, or about to be. */
const UNFINISHED: readonly JobState[] = ['waiting', 'running'];
/** Holding its subject: a paused job keeps others away as well. */
const ACTIVE: readonly JobState[] = [...UNFINISHED, 'paused'];

/** What a job can do, and what it is doing, as its runner knows it. */
export interface JobAbilities {
  readonly undo: boolean;
  readonly pause: boolean;
  /** Cancelling takes back what was begun, so there is nothing to go on with. */
  readonly cleansUp: boolean;
  readonly waitsForEstate: boolean;
}

export class JobStore {
  constructor(private readonly db: Db) {}

  /** A job with its steps, in a transaction of the caller's. */
  async insert(
    job: {
      readonly id: string;
      readonly kind: string;
      readonly title: string;
      readonly subject: string;
      readonly input: unknown;
      readonly by: Role | undefined;
      readonly createdAt: Instant;
      readonly promisedAt?: Instant | undefined;
    },
    steps: readonly string[],
  ): Promise<void> {
    await this.db
      .insertInto('job')
      .values({
        id: job.id,
        kind: job.kind,
        title: job.title,
        subject: job.subject,
        state: 'waiting',
        input_json: JSON.stringify(job.input),
        error: null,
        cancel: 0,
        pause: 0,
        by_role: job.by ?? null,
        created_ms: job.createdAt,
        ended_ms: null,
        promised_ms: job.promisedAt ?? null,
      })
      .execute();
    const rows = steps.map((title, number) => ({
      job_id: job.id,
      number,
      title,
      state: 'waiting' as const,
      progress: 0,
      started_ms: null,
      ended_ms: null,
    }));
    // SQLite takes about 32,000 values in a statement.
    for (let i = 0; i < rows.length; i += 1000)
      await this.db
        .insertInto('job_step')
        .values(rows.slice(i, i + 1000))
        .execute();
  }

  get(id: string): Promise<JobRow | undefined> {
    return this.db.selectFrom('job').selectAll().where('id', '=', id).executeTakeFirst();
  }

  activeOf(subject: string): Promise<JobRow | undefined> {
    return this.db
      .selectFrom('job')
      .selectAll()
      .where('subject', '=', subject)
      .where('state', 'in', ACTIVE)
      .executeTakeFirst();
  }

  /** Jobs at work on subjects that begin so. */
  activeLike(prefix: string): Promise<JobRow[]> {
    return this.db
      .selectFrom('job')
      .selectAll()
      .where('subject', 'like', `${prefix}%`)
      .where('state', 'in', ACTIVE)
      .execute();
  }

  unfinished(): Promise<JobRow[]> {
    return this.db
      .selectFrom('job')
      .selectAll()
      .where('state', 'in', UNFINISHED)
      .orderBy('created_ms')
      .execute();
  }

  async list(subject: string | undefined, limit: number): Promise<JobRow[]> {
    let query = this.db
      .selectFrom('job')
      .selectAll()
      .orderBy('created_ms', 'desc')
      // Of the same instant of the estate, the one that was begun last.
      .orderBy(sql`rowid`, 'desc')
      .limit(limit);
    if (subject) query = query.where('subject', '=', subject);
    return query.execute();
  }

  async setState(id: string, state: JobState, error: string | null): Promise<void> {
    await this.db.updateTable('job').set({ state, error }).where('id', '=', id).execute();
  }

  async setPause(id: string, pause: boolean): Promise<void> {
    await this.db
      .updateTable('job')
      .set({ pause: pause ? 1 : 0 })
      .where('id', '=', id)
      .execute();
  }

  async setCancel(id: string): Promise<void> {
    await this.db.updateTable('job').set({ cancel: 1 }).where('id', '=', id).execute();
  }

  async reopen(id: string): Promise<void> {
    await this.db.transact(async () => {
      await this.reopenSteps(id);
      await this.db
        .updateTable('job')
        .set({ state: 'waiting', error: null, cancel: 0, pause: 0, ended_ms: null })
        .where('id', '=', id)
        .execute();
    });
  }

  private async reopenSteps(id: string): Promise<void> {
    await this.db
      .updateTable('job_step')
      .set({ state: 'waiting' })
      .where('job_id', '=', id)
      .where('state', '!=', 'done')
      .execute();
  }

  async end(id: string, state: JobState, error: string | null, at: Instant): Promise<void> {
    await this.db.updateTable('job').set({ state, error, ended_ms: at }).where('id', '=', id).execute();
  }

  async finishedSteps(id: string): Promise<Set<number>> {
    const rows = await this.db
      .selectFrom('job_step')
      .select('number')
      .where('job_id', '=', id)
      .where('state', '=', 'done')
      .execute();
    return new Set(rows.map((row) => row.number));
  }

  /** A step taken up again after a restart keeps the instant at which it first began. */
  async beginStep(id: string, number: number, at: Instant): Promise<void> {
    const step = this.db.updateTable('job_step').where('job_id', '=', id).where('number', '=', number);
    await step.set({ state: 'running' }).execute();
    await step.where('started_ms', 'is', null).set({ started_ms: at }).execute();
  }

  async endStep(id: string, number: number, state: 'done' | 'failed', at: Instant): Promise<void> {
    await this.db
      .updateTable('job_step')
      .set({ state, ended_ms: at, ...(state === 'done' ? { progress: 1 } : {}) })
      .where('job_id', '=', id)
      .where('number', '=', number)
      .execute();
  }

  async setProgress(id: string, number: number, progress: number): Promise<void> {
    await this.db
      .updateTable('job_step')
      .set({ progress })
      .where('job_id', '=', id)
      .where('number', '=', number)
      .where('state', '=', 'running')
      .execute();
  }

  async log(id: string, step: number, at: Instant, text: string): Promise<void> {
    await this.db.insertInto('job_log').values({ job_id: id, step, at_ms: at, text }).execute();
  }

  /** Jobs as the API gives them. */
  async present(rows: readonly JobRow[], may: (job: JobRow) => JobAbilities): Promise<Job[]> {
    if (rows.length === 0) return [];
    const ids = rows.map((row) => row.id);
    const steps = await this.db
      .selectFrom('job_step')
      .selectAll()
      .where('job_id', 'in', ids)
      .orderBy('number')
      .execute();
    const ended = (row: JobRow) => row.state === 'failed' || row.state === 'cancelled';
    const goesOn = (row: JobRow) =>
      row.undone === 0 &&
      (row.state === 'failed' || row.state === 'paused' || (row.state === 'cancelled' && !may(row).cleansUp));
    return rows.map((row) => ({
      id: row.id,
      kind: row.kind,
      title: row.title,
      subject: row.subject,
      state: row.state,
      by: row.by_role,
      error: row.error,
      createdAt: row.created_ms,
      endedAt: row.ended_ms,
      promisedAt: row.promised_ms,
      waitsForEstate: may(row).waitsForEstate,
      canGoOn: goesOn(row),
      canUndo: ended(row) && row.undone === 0 && may(row).undo,
      canPause: may(row).pause && UNFINISHED.includes(row.state),
      pausing: row.pause === 1 && UNFINISHED.includes(row.state),
      steps: steps
        .filter((step) => step.job_id === row.id)
        .map((step) => ({
          title: step.title,
          state: step.state,
          progress: step.progress,
          startedAt: step.started_ms,
          endedAt: step.ended_ms,
        })),
    }));
  }

  async detail(row: JobRow, may: (job: JobRow) => JobAbilities): Promise<JobDetail> {
    const [job] = await this.present([row], may);
    const log = await this.db
      .selectFrom('job_log')
      .selectAll()
      .where('job_id', '=', row.id)
      .orderBy('id')
      .execute();
    const ledger = await this.db
      .selectFrom('ledger')
      .select(({ fn }) => ['state', fn.countAll<number>().as('rows')])
      .where('job_id', '=', row.id)
      .groupBy('state')
      .execute();
    return {
      ...(job as Job),
      log: log.map((line) => ({ at: line.at_ms, step: line.step, text: line.text })),
      ledger: Object.fromEntries(ledger.map(({ state, rows }) => [state, rows])),
    };
  }

  /** What a job made and is to make, page by page. */
  async ledgerPage(
    id: string,
    { limit, after, state }: z.output<typeof jobEndpoints.ledger.query>,
  ): Promise<Page<LedgerRow> & { rows: LedgerRow[] }> {
    const [last] = placeIn(after, ['number']) ?? [];
    let all = this.db.selectFrom('ledger').where('job_id', '=', id);
    if (state !== undefined) all = all.where('state', '=', state);
    let rows = all
      .selectAll()
      .orderBy('number')
      .limit(limit + 1);
    if (last !== undefined) rows = rows.where('number', '>', Number(last));
    const { total } = await all
      .select(({ fn }) => fn.countAll<number>().as('total'))
      .executeTakeFirstOrThrow();
    return pageFrom(await rows.execute(), { limit, total, placeOf: (row) => [row.number] }, (shown) =>
      shown.map(
        ({ object, system, state: own, key, detail, waits_since_ms: since, waits_until_ms: until }) => ({
          object,
          system,
          state: own,
          key,
          detail,
          waits: own === 'planned' && since !== null && until !== null ? { since, until } : null,
        }),
      ),
    );
  }
}
