/**
 * Jobs: long work that shows progress, can be cancelled and survives a restart. A job is a row
 * with steps; its steps are made anew from its input after a restart and must be idempotent, so
 * that the one that was interrupted can run again.
 */
import type { Logger } from 'pino';
import type { Job, JobDetail } from '@vatline/contract/job';
import type { Role } from '@vatline/core/roles';
import type { Instant } from '@vatline/core/time/instant';
import type { Db } from '../database.ts';
import type { EstateClock } from '../../estate/driver/clock.ts';
import { type Operation, type Operations, EstateError } from '../../estate/driver/operations.ts';
import { actingAs, whoActs } from '../acting.ts';
import type { Journal, Note } from '../journal.ts';
import { systemReason } from '@vatline/files/system-reason';
import { newId } from '../ids.ts';
import { conflict, notFound, problemOf } from '../problem.ts';
import type { Trouble } from '../trouble.ts';
import { Cancelled } from './cancelled.ts';
import { JobNews } from './job-news.ts';
import { Ledger } from './ledger.ts';
import { OperationWaits, unspent, type Waiting } from './operation-waits.ts';
import { Pace } from './pace.ts';
import { JobStore, type JobAbilities } from './store.ts';
import type { JobRow } from './tables.ts';
import { subjectAddress } from './subject-address.ts';

export interface JobStep {
  readonly title: string;
  run(context: JobContext): Promise<void>;
}

export interface JobKind<I> {
  readonly kind: string;
  /** Whether the estate's clock waits while this job is not waiting for an operation itself. */
  readonly paced: boolean;
  steps(input: I, jobId: string): Promise<readonly JobStep[]>;
  /** Called when the job ends, however it does, before that is written down: after a kill it is called again. */
  ended?(input: I, state: 'done' | 'failed' | 'cancelled', jobId: string): Promise<void>;
  /** Whether it may stop between two steps until somebody lets it go on. */
  readonly pausable?: boolean;
  /** Takes back what was begun, once it was cancelled; it cannot be gone on with then. */
  cleanUp?(input: I, jobId: string): Promise<void>;
  /** The kind of job that undoes what this one made. */
  readonly undoKind?: string;
}

export interface JobContext {
  readonly jobId: string;
  readonly ledger: Ledger;
  log(text: string): Promise<void>;
  /** Share of the step that is done, 0 to 1. */
  progress(share: number): void;
  cancelled(): boolean;
  /**
   * Starts an operation, waits for its end and gives it back; throws when it failed. `start` is
   * given the number of the attempt for its key: going on after a failure is a new call, taking up
   * after a restart is the same one.
   */
  operation(start: (attempt: number) => Promise<Operation>): Promise<Operation>;
  /** Runs strands side by side to their ends; then throws what the first failed one threw. */
  together(strands: readonly (() => Promise<void>)[]): Promise<void>;
}

interface Running extends Waiting {
  cancelled: boolean;
  paused: boolean;
}

export interface StartRequest {
  readonly kind: string;
  readonly title: string;
  readonly subject: string;
  readonly input: unknown;
  /** By when it is to be done, where that is promised. */
  readonly promisedAt?: Instant;
}

export interface PreparedJob extends StartRequest {
  readonly id: string;
  /** Undefined where nobody started it but a schedule. */
  readonly by: Role | undefined;
  readonly createdAt: Instant;
  /** Titles. */
  readonly steps: readonly string[];
}

export class JobRunner {
  readonly store: JobStore;
  private readonly news: JobNews;
  private readonly kinds = new Map<string, JobKind<never>>();
  private readonly running = new Map<string, Running>();
  private readonly waits: OperationWaits;
  private stopping = false;

  constructor(
    private readonly parts: {
      db: Db;
      clock: EstateClock;
      operations: Operations;
      journal: Journal;
      log: Logger;
      trouble: Trouble;
    },
  ) {
    this.store = new JobStore(parts.db);
    this.news = new JobNews((...topics) => parts.journal.tell(...topics));
    this.waits = new OperationWaits(parts.operations);
  }

  register<I>(kind: JobKind<I>): void {
    this.kinds.set(kind.kind, kind as unknown as JobKind<never>);
  }

  get active(): number {
    return this.running.size;
  }

  /** Starts a job. Refused while another one of the same subject is at work. */
  async start(request: StartRequest): Promise<string> {
    const prepared = await this.prepare(request);
    await this.parts.db.transact(() => this.enlist(prepared));
    this.begin(prepared.id);
    return prepared.id;
  }

  /** A job with its steps, which is not written down yet. */
  async prepare(request: StartRequest): Promise<PreparedJob> {
    this.parts.trouble.refuse();
    const id = newId('job');
    const steps = await this.kindOf(request.kind).steps(request.input as never, id);
    return {
      ...request,
      id,
      by: whoActs(),
      createdAt: this.parts.clock.now(),
      steps: steps.map((step) => step.title),
    };
  }

  /**
   * Writes a job down, in the transaction of what else is to be there or not at all. Refused while another one of the same subject is at work.
   */
  async enlist(prepared: PreparedJob): Promise<void> {
    const busy = await this.store.activeOf(prepared.subject);
    if (busy) throw conflict(`"${busy.title}" is at work on this; wait for its end or cancel it`);
    await this.store.insert(prepared, prepared.steps);
  }

  /** Begins a job whose transaction has ended; after a kill in between, the next start does. */
  begin(id: string): void {
    this.launch(id);
  }

  /** Takes up every job that was at work when the server stopped. */
  async resumeAll(): Promise<number> {
    const rows = (await this.store.unfinished()).filter((row) => !this.running.has(row.id));
    for (const row of rows) this.launch(row.id);
    return rows.length;
  }

  async cancel(id: string): Promise<void> {
    const row = await this.need(id);
    // One whose cleaning up failed is cleaned up again.
    if (row.state === 'paused' || (row.state === 'failed' && this.may(row).cleansUp))
      return this.finish(row, { state: 'cancelled', error: null });
    if (row.state !== 'running' && row.state !== 'waiting')
      throw conflict(`"${row.title}" has ended already`);
    await this.parts.db.transact(async () => {
      await this.store.setCancel(id);
      await this.note(row, 'is to be cancelled');
    });
    const running = this.running.get(id);
    if (!running) return;
    running.cancelled = true;
    for (const interrupt of running.interrupts) interrupt(new Cancelled());
  }

  /** Stops a job before its next step; the one at work is finished. */
  async pause(id: string): Promise<void> {
    const row = await this.need(id);
    if (!this.may(row).pause) throw conflict(`"${row.title}" cannot be paused; it can be cancelled`);
    const running = this.running.get(id);
    if (!running) throw conflict(`"${row.title}" is not at work`);
    await this.parts.db.transact(async () => {
      await this.store.setPause(id, true);
      await this.note(row, 'pauses before its next step');
    });
    running.paused = true;
    this.news.changed(row);
  }

  /** Goes on with a failed, cancelled or paused job from the step that did not end. */
  async goOn(id: string): Promise<void> {
    const row = await this.need(id);
    const running = this.running.get(id);
    if (running?.paused && row.state !== 'paused') {
      await this.parts.db.transact(async () => {
        await this.store.setPause(id, false);
        await this.note(row, 'goes on');
      });
      running.paused = false;
      return this.news.changed(row);
    }
    if (row.undone === 1) throw conflict(`"${row.title}" was undone; start it anew`);
    if (row.state === 'cancelled' && this.may(row).cleansUp)
      throw conflict(`"${row.title}" was cancelled and cleaned up; start it anew`);
    if (row.state !== 'failed' && row.state !== 'cancelled' && row.state !== 'paused')
      throw conflict(`"${row.title}" did not fail`);
    const busy = await this.store.activeOf(row.subject);
    if (busy && busy.id !== id) throw conflict(`"${busy.title}" is at work on this; wait for its end`);
    await this.parts.db.transact(async () => {
      await this.store.reopen(id);
      await this.note(row, 'goes on');
    });
    this.launch(id);
  }

  /** Starts the job that takes back what a failed one made. */
  async undo(id: string): Promise<string> {
    const row = await this.need(id);
    const kind = this.kindOf(row.kind).undoKind;
    if (!kind || row.state === 'done' || row.undone === 1)
      throw conflict(`"${row.title}" has nothing to undo`);
    return this.start({
      kind,
      title: `Undo: ${row.title}`,
      subject: row.subject,
      input: { of: id },
    });
  }

  /** Jobs as the API gives them. */
  present(rows: readonly JobRow[]): Promise<Job[]> {
    return this.store.present(rows, (row) => this.may(row));
  }

  /** A job with its log and ledger. */
  async detail(id: string): Promise<JobDetail> {
    return this.store.detail(await this.need(id), (row) => this.may(row));
  }

  /** The job at work on a subject. */
  async activeOn(subject: string): Promise<Job | null> {
    const row = await this.store.activeOf(subject);
    return row ? ((await this.present([row]))[0] ?? null) : null;
  }

  /** Jobs at work on subjects that begin so, by subject. */
  async activeBySubject(prefix: string): Promise<Map<string, Job>> {
    const jobs = await this.present(await this.store.activeLike(prefix));
    return new Map(jobs.map((job) => [job.subject, job]));
  }

  /** The newest jobs, of one subject when given. */
  async newest(subject: string | undefined, limit: number): Promise<Job[]> {
    return this.present(await this.store.list(subject, limit));
  }

  private may({ id, kind }: Pick<JobRow, 'id' | 'kind'>): JobAbilities {
    const known = this.kinds.get(kind);
    return {
      waitsForEstate: (this.running.get(id)?.interrupts.size ?? 0) > 0,
      undo: known?.undoKind !== undefined,
      pause: known?.pausable === true,
      cleansUp: known?.cleanUp !== undefined,
    };
  }

  /** Lets running steps be; they are taken up at the next start. */
  stop(): void {
    this.stopping = true;
  }

  private kindOf(kind: string): JobKind<never> {
    const found = this.kinds.get(kind);
    if (!found) throw new Error(`unknown job kind ${kind}`);
    return found;
  }

  /** Throws a refusal where there is none. */
  async need(id: string): Promise<JobRow> {
    const row = await this.store.get(id);
    if (!row) throw notFound('such job');
    return row;
  }

  private note(row: JobRow, text: string): Promise<void> {
    return this.parts.journal.note(noteOf(row, text, this.parts.clock.now()));
  }

  /** From here on it goes by itself, also where it was begun within a change. */
  private launch(id: string): void {
    const running: Running = { cancelled: false, paused: false, interrupts: new Set() };
    this.running.set(id, running);
    this.parts.db
      .outside(() => this.run(id, running))
      .catch((error: unknown) => {
        if (this.stopping || this.parts.trouble.notice(error)) return;
        this.parts.log.error({ err: error as Error, job: id }, 'job runner failed');
      })
      .finally(() => {
        if (this.running.get(id) === running) this.running.delete(id);
      })
      .catch(() => undefined);
  }

  private async run(id: string, running: Running): Promise<void> {
    const row = await this.need(id);
    return actingAs(row.by_role ?? undefined, () => this.work(row, running));
  }

  private async work(row: JobRow, running: Running): Promise<void> {
    const { id } = row;
    const pace = new Pace(this.kinds.get(row.kind)?.paced ? this.parts.clock : undefined);
    pace.enter();
    running.cancelled ||= row.cancel === 1;
    running.paused ||= row.pause === 1;
    try {
      await this.store.setState(id, 'running', null);
      this.news.changed(row);
      const outcome = await this.outcomeOf(row, running, pace);
      if (this.stopping) return;
      if (outcome.state === 'paused') await this.rest(row);
      else await this.finish(row, outcome);
    } finally {
      pace.leave();
    }
  }

  /** Steps that cannot even be made fail the job; nobody could end it otherwise. */
  private async outcomeOf(row: JobRow, running: Running, pace: Pace): Promise<Outcome> {
    let steps: readonly JobStep[];
    try {
      steps = await this.kindOf(row.kind).steps(JSON.parse(row.input_json) as never, row.id);
    } catch (error) {
      if (this.parts.trouble.notice(error)) throw error;
      if (running.cancelled) return { state: 'cancelled', error: null };
      return { state: 'failed', error: await this.describe(row.id, 0, error) };
    }
    return this.runSteps(row, steps, running, pace);
  }

  /** Lets a job lie until it is gone on with, also over a restart. */
  private async rest(row: JobRow): Promise<void> {
    await this.store.setState(row.id, 'paused', null);
    this.news.changed(row);
  }

  /** What has to be done at the end comes first, and that it has ended last, with its note, at once. */
  private async finish(row: JobRow, wanted: EndedOutcome): Promise<void> {
    const outcome = await this.cleanedUp(row, wanted);
    await this.kinds.get(row.kind)?.ended?.(JSON.parse(row.input_json) as never, outcome.state, row.id);
    const at = this.parts.clock.now();
    await this.parts.db.transact(async () => {
      await this.store.end(row.id, outcome.state, outcome.error, at);
      await this.parts.journal.note(endNote(row, outcome, at));
    });
    this.news.changed(row);
    // What it made is a part of the answers about lines, packages and pools.
    this.parts.journal.tell('line', 'package', 'pool');
  }

  private async cleanedUp(row: JobRow, outcome: EndedOutcome): Promise<EndedOutcome> {
    if (outcome.state !== 'cancelled') return outcome;
    try {
      await this.kinds.get(row.kind)?.cleanUp?.(JSON.parse(row.input_json) as never, row.id);
      return outcome;
    } catch (error) {
      if (this.parts.trouble.notice(error)) throw error;
      const why = await this.describe(row.id, 0, error);
      return { state: 'failed', error: `it was cancelled, but could not be cleaned up: ${why}` };
    }
  }

  private async runSteps(
    row: JobRow,
    steps: readonly JobStep[],
    running: Running,
    pace: Pace,
  ): Promise<Outcome> {
    const finished = await this.store.finishedSteps(row.id);
    for (const [number, step] of steps.entries()) {
      if (finished.has(number)) continue;
      if (running.cancelled) return { state: 'cancelled', error: null };
      if (running.paused) return { state: 'paused' };
      await this.store.beginStep(row.id, number, this.parts.clock.now());
      this.news.progressed(row);
      try {
        await step.run(this.context(row, number, running, pace));
        await this.store.endStep(row.id, number, 'done', this.parts.clock.now());
      } catch (error) {
        if (this.stopping) return { state: 'failed', error: null };
        // Nothing is wrong with the step: it is taken up when there is room again.
        if (this.parts.trouble.notice(error)) throw error;
        await this.store.endStep(row.id, number, 'failed', this.parts.clock.now());
        if (error instanceof Cancelled) return { state: 'cancelled', error: null };
        return { state: 'failed', error: await this.describe(row.id, number, error) };
      }
    }
    return { state: 'done', error: null };
  }

  private async describe(id: string, step: number, error: unknown): Promise<string> {
    const message =
      problemOf(error)?.detail ??
      systemReason(error) ??
      (error instanceof Error ? error.message : String(error));
    const expected =
      error instanceof EstateError || ['InputError', 'Refusal'].includes((error as Error).name);
    if (!expected) this.parts.log.error({ err: error as Error, job: id }, 'job step failed');
    await this.store.log(id, step, this.parts.clock.now(), message);
    return message;
  }

  private context(row: JobRow, step: number, running: Running, pace: Pace): JobContext {
    const { clock, operations } = this.parts;
    const { id } = row;
    return {
      jobId: id,
      ledger: new Ledger(this.parts.db, id, () => this.news.progressed(row)),
      log: async (text) => {
        await this.store.log(id, step, clock.now(), text);
        this.news.progressed(row);
      },
      progress: (share) => {
        this.store.setProgress(id, step, share).then(
          () => this.news.progressed(row),
          (error: unknown) => this.parts.trouble.notice(error),
        );
      },
      cancelled: () => running.cancelled,
      operation: async (start) => {
        const begun = await unspent(start);
        const end = this.waits.untilEnd(begun, running, pace);
        this.news.progressed(row);
        const ended = await end.catch(async (error: unknown) => {
          // Cleaning up must come last, so nothing may still be on its way then.
          if (error instanceof Cancelled && this.may(row).cleansUp) await operations.callOff(begun.key);
          throw error;
        });
        if (ended.state === 'failed')
          throw new EstateError(ended.error?.kind ?? 'failed', ended.error?.message ?? 'failed');
        return ended;
      },
      together: async (strands) => {
        const results = await pace.together(strands);
        const failed = results.find((result) => result.status === 'rejected');
        if (failed) throw failed.reason;
      },
    };
  }
}

function endNote(row: JobRow, outcome: EndedOutcome, at: number): Note {
  const text = {
    done: 'done',
    failed: `failed, ${outcome.error ?? ''}`,
    cancelled: 'cancelled',
  }[outcome.state];
  return noteOf(row, text, at);
}

function noteOf(row: JobRow, what: string, at: number): Note {
  const text = `${row.title}: ${what}`;
  return { at, kind: 'job', subject: row.subject, text, link: subjectAddress(row.subject) };
}

interface EndedOutcome {
  readonly state: 'done' | 'failed' | 'cancelled';
  readonly error: string | null;
}

type Outcome = EndedOutcome | { readonly state: 'paused' };
