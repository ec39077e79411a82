/**
 * Lines that are cut by themselves. At each occurrence the updates step takes the newest release if
 * it is to, the machine is built from its waterline, shut down and cut, and the rollouts that follow
 * are planned. What was changed by hand and is no step of the recipe is not in such a cut: the build
 * puts the machine back to its checkpoints.
 */
import type { CutScheduleRequest, KeptSchedule } from '@vatline/contract/cut-schedule';
import { checkpointKeys } from '@vatline/core/image/checkpoint-plan';
import { recipeFaults, type Step } from '@vatline/core/image/recipe';
import { listWindows } from '@vatline/core/time/windows';
import type { Fault } from '@vatline/core/result';
import { HOUR, MINUTE } from '@vatline/core/time/instant';
import { nextOccurrences } from '@vatline/core/time/occurrences';
import { fromJson } from '../platform/database.ts';
import type { JobKind } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import { refuseStale } from '../platform/stale.ts';
import type { Following } from '../rollout/rings/following.ts';
import { backToCheckpoint, buildSteps, nextBuild, type BuildInput } from './build-job.ts';
import { cutInput, cutSteps, dropCopy, type CutInput } from './cut-job.ts';
import { powerStep } from './jobs.ts';
import { lineNote } from './line-note.ts';
import type { ImageStore } from './store.ts';
import type { LineRow } from './tables.ts';

interface ScheduledCutInput {
  readonly build: BuildInput;
  readonly cut: CutInput;
  readonly schedule: CutScheduleRequest;
}

/** An occurrence that the server slept through is made up for this long afterwards. */
const LATE = 6 * HOUR;
const AGAIN = 10 * MINUTE;
const SHOWN = 3;

export class CutSchedules {
  constructor(
    private readonly parts: Parts,
    private readonly store: ImageStore,
    private readonly following: Following,
  ) {
    parts.jobs.register(this.job());
  }

  /** Waits for the next occurrence of every schedule after a start. */
  async resume(): Promise<void> {
    const rows = await this.parts.db.selectFrom('cut_schedule').select('line_id').execute();
    for (const row of rows) await this.arm(row.line_id);
  }

  async get(lineId: string): Promise<KeptSchedule> {
    await this.store.lines.get(lineId);
    const row = await this.row(lineId);
    const rings = await this.following.ofLine(lineId, 20);
    if (!row) return { schedule: null, revision: 0, nextAt: [], lastAt: null, lastOutcome: '', rings };
    const schedule = fromJson<CutScheduleRequest>(row.schedule_json);
    const next = nextOccurrences(schedule, Math.max(row.after_ms, this.now), SHOWN);
    return {
      schedule,
      revision: row.revision,
      nextAt: next.ok ? next.value : [],
      lastAt: row.last_ms,
      lastOutcome: row.last_outcome,
      rings,
    };
  }

  async all(): Promise<{ lineId: string; schedule: CutScheduleRequest; after: number }[]> {
    const rows = await this.parts.db.selectFrom('cut_schedule').selectAll().execute();
    return rows.map((row) => ({
      lineId: row.line_id,
      schedule: fromJson<CutScheduleRequest>(row.schedule_json),
      after: row.after_ms,
    }));
  }

  /** Throws a conflict when somebody kept another schedule meanwhile. */
  async keep(lineId: string, schedule: CutScheduleRequest, basedOn: number): Promise<KeptSchedule> {
    const line = await this.store.lines.get(lineId);
    const faults = await this.faults(line, schedule);
    if (faults.length > 0) throw invalid(faults);
    const schedule_json = JSON.stringify(schedule);
    const change = { schedule_json, after_ms: this.now, revision: basedOn + 1 };
    await this.parts.db.transact(async () => {
      const kept = await this.parts.db
        .selectFrom('cut_schedule')
        .select('revision')
        .where('line_id', '=', lineId)
        .executeTakeFirst();
      refuseStale('schedule', line.name, kept?.revision ?? 0, basedOn);
      await this.parts.db
        .insertInto('cut_schedule')
        .values({ line_id: lineId, ...change, last_ms: null, last_outcome: '' })
        .onConflict((c) => c.column('line_id').doUpdateSet(change))
        .execute();
      await this.note(line, 'is cut by a schedule from now on');
    });
    await this.arm(lineId);
    return this.get(lineId);
  }

  async drop(lineId: string): Promise<void> {
    const line = await this.store.lines.get(lineId);
    await this.parts.db.transact(async () => {
      await this.parts.db.deleteFrom('cut_schedule').where('line_id', '=', lineId).execute();
      await this.note(line, 'is cut by hand only from now on');
    });
  }

  private get now(): number {
    return this.parts.estate.clock.now();
  }

  private row(lineId: string) {
    return this.parts.db
      .selectFrom('cut_schedule')
      .selectAll()
      .where('line_id', '=', lineId)
      .executeTakeFirst();
  }

  private async faults(line: LineRow, schedule: CutScheduleRequest): Promise<Fault[]> {
    const next = nextOccurrences(schedule, this.now, 1);
    if (!next.ok) return [...next.error];
    const faults: Fault[] = next.value.length === 0 ? [{ path: 'rule', message: 'never happens' }] : [];
    const pools = await this.parts.db.selectFrom('pool').select(['id', 'line_id', 'name']).execute();
    const seen = new Set<string>();
    schedule.rollouts.forEach((rollout, i) => {
      const at = (field: string, message: string) => faults.push({ path: `rollouts.${i}.${field}`, message });
      const pool = pools.find((row) => row.id === rollout.poolId);
      if (!pool) at('poolId', 'there is no such pool');
      else if (pool.line_id !== line.id) at('poolId', `${pool.name} is made from another line`);
      if (seen.has(rollout.poolId)) at('poolId', 'stands here twice');
      seen.add(rollout.poolId);
      const windows = listWindows({ ...rollout.window, zone: schedule.zone }, this.now, 1);
      if (!windows.ok) for (const fault of windows.error) at(`window.${fault.path}`, fault.message);
      else if (windows.value.length === 0) at('window.rule', 'never happens');
    });
    return faults;
  }

  private async arm(lineId: string): Promise<void> {
    const row = await this.row(lineId);
    if (!row) return;
    const next = nextOccurrences(fromJson<CutScheduleRequest>(row.schedule_json), row.after_ms, 1);
    const at = next.ok ? next.value[0] : undefined;
    if (at !== undefined) this.wake(lineId, at, at);
  }

  private wake(lineId: string, when: number, occurrence: number): void {
    this.parts.estate.clock.wakeAt(when, `cut ${lineId}`, () => this.due(lineId, occurrence));
  }

  private async due(lineId: string, occurrence: number): Promise<void> {
    const row = await this.row(lineId);
    if (!row || row.after_ms >= occurrence) return;
    const line = await this.store.lines.get(lineId);
    if (this.now - occurrence > LATE)
      return this.settle(line, occurrence, 'was missed: the server did not run');
    if ((await this.parts.jobs.activeOn(`line:${lineId}`)) && !(await this.begun(lineId, occurrence)))
      return this.wake(lineId, this.now + AGAIN, occurrence);
    await this.settle(line, occurrence, await this.begin(line, row.schedule_json, occurrence));
  }

  /** Whether the job of an occurrence was started before a crash kept that from being noted. */
  private async begun(lineId: string, occurrence: number): Promise<boolean> {
    const job = await this.parts.db
      .selectFrom('job')
      .select('id')
      .where('kind', '=', 'scheduled cut')
      .where('subject', '=', `line:${lineId}`)
      .where('created_ms', '>=', occurrence)
      .executeTakeFirst();
    return job !== undefined;
  }

  /** Why nothing was begun, after "the cut by schedule"; null when its job was begun. */
  private async begin(line: LineRow, scheduleJson: string, occurrence: number): Promise<string | null> {
    if (await this.begun(line.id, occurrence)) return null;
    const schedule = fromJson<CutScheduleRequest>(scheduleJson);
    if (schedule.takeUpdates) await this.takeUpdates(line);
    const current = await this.store.lines.get(line.id);
    const recipe = await this.store.recipes.get(line.id, current.recipe_revision);
    const faults = recipeFaults(recipe.expanded);
    if (faults[0]) return `was refused: ${faults[0].message}`;
    const [newest] = (await this.store.versions.all()).filter((version) => version.lineId === line.id);
    if (newest && newest.recipeRevision > 0 && schedule.onlyIfChanged) {
      const cut = await this.store.recipes.get(line.id, newest.recipeRevision);
      const keyOf = (of: typeof cut) => checkpointKeys(of.hardware, of.expanded).at(-1);
      if (keyOf(cut) === keyOf(recipe))
        return `was left out: nothing has changed since version ${newest.number}`;
    }
    const input: ScheduledCutInput = {
      build: await nextBuild(this.parts, this.store, current),
      cut: cutInput(current, 'by schedule'),
      schedule,
    };
    await this.parts.jobs.start({
      kind: 'scheduled cut',
      title: `Build and cut ${line.name} by schedule`,
      subject: `line:${line.id}`,
      input,
    });
    return null;
  }

  /** The updates step takes the newest release of the feed, as a revision of its own. */
  private async takeUpdates(line: LineRow): Promise<void> {
    const { release } = await this.parts.estate.sources.current();
    const { steps, hardware } = await this.store.recipes.get(line.id, line.recipe_revision);
    const newer = (step: Step) => step.kind === 'updates' && step.release < release;
    if (!steps.some(newer)) return;
    const changed = steps.map((step) => (newer(step) ? ({ ...step, release } as Step) : step));
    const revision = await this.store.recipes.add(line.id, changed, hardware, this.now);
    await this.note(line, `recipe ${revision} takes the updates up to ${release}, by schedule`);
  }

  private async settle(line: LineRow, occurrence: number, whyNot: string | null): Promise<void> {
    await this.parts.db.transact(async () => {
      await this.parts.db
        .updateTable('cut_schedule')
        .set({ after_ms: occurrence, last_ms: occurrence, last_outcome: whyNot ?? 'was begun' })
        .where('line_id', '=', line.id)
        .execute();
      if (whyNot !== null) await this.note(line, `the cut by schedule ${whyNot}`);
    });
    this.parts.journal.tell('line', 'job');
    await this.arm(line.id);
  }

  private async note(line: LineRow, text: string): Promise<void> {
    await this.parts.journal.note({ ...lineNote(line, `: ${text}`, 'schedule'), at: this.now });
    this.parts.journal.tell('line');
  }

  private job(): JobKind<ScheduledCutInput> {
    return {
      kind: 'scheduled cut',
      paced: true,
      pausable: true,
      cleanUp: async ({ cut }, jobId) => {
        await dropCopy(this.parts, jobId);
        await backToCheckpoint(this.parts, this.store, cut.lineId, jobId);
      },
      steps: ({ build, cut, schedule }) => {
        const { lineId } = cut;
        const recorded = async (version: { id: string; number: number; cut_ms: number }) => {
          if (schedule.rollouts.length > 0)
            await this.store.versions.setState(version.id, 'in test', 'schedule', '', this.now);
          const notBefore = version.cut_ms + schedule.waitHours * HOUR;
          await this.following.plan({ id: version.id, lineId, number: version.number }, schedule, notBefore);
        };
        return Promise.resolve([
          ...buildSteps(this.parts, this.store, build),
          powerStep(this.parts, this.store, lineId, 'shut down'),
          ...cutSteps(this.parts, this.store, cut, recorded),
          ...(schedule.leaveRunning ? [powerStep(this.parts, this.store, lineId, 'run')] : []),
        ]);
      },
    };
  }
}
