/**
 * What a rollout may never do, read from the journal alone: hosts begin only inside a window and while
 * nobody has paused it, never more of them than its plan says, none twice at once and each is done once.
 * The journal is what people are told; the tables that the engine itself reads are not asked.
 */
import type Sqlite from 'better-sqlite3';
import { windowsFrom, type WindowRule } from '@vatline/core/time/windows';
import { must } from '@vatline/core/result';

/** A plan from an instant on, until the next one. */
interface InForce {
  readonly from: number;
  readonly until: number;
  readonly isPaused: boolean;
  readonly window: WindowRule;
  readonly batch: number;
  readonly maxUnavailable: number;
}

interface RolloutOnPaper {
  readonly id: string;
  readonly pool: string;
  readonly startedAt: number;
  readonly windowsFrom: number;
  readonly state: string;
  readonly hosts: readonly { readonly name: string; readonly stage: string }[];
  readonly plans: readonly InForce[];
}

export interface JournalFigures {
  readonly rollouts: number;
  readonly starts: number;
  readonly done: number;
  readonly failures: number;
  /** What was done that may not be; empty when nothing was. */
  readonly wrong: readonly string[];
}

/** Goes through everything that the journal tells of rollouts begun at or after an instant. */
export function readRolloutJournal(own: Sqlite.Database, since = 0): JournalFigures {
  const figures = { rollouts: 0, starts: 0, done: 0, failures: 0 };
  const wrong: string[] = [];
  for (const rollout of rolloutsSince(own, since)) {
    const course = new Course(rollout);
    const told = own
      .prepare(`select at_ms as at, text from journal where subject = ? order by id`)
      .all(`rollout:${rollout.id}`) as { at: number; text: string }[];
    for (const { at, text } of told) course.hear(at, text);
    course.end();
    figures.rollouts++;
    figures.starts += course.starts;
    figures.done += course.done.size;
    figures.failures += course.failures;
    wrong.push(...course.wrong.map((what) => `${rollout.pool}: ${what}`));
  }
  return { ...figures, wrong };
}

type Doing = 'draining' | 'attached in service' | 'failed';

/** One rollout as it is told. */
class Course {
  readonly wrong: string[] = [];
  readonly done = new Set<string>();
  starts = 0;
  failures = 0;
  private readonly doing = new Map<string, Doing>();

  constructor(private readonly rollout: RolloutOnPaper) {}

  hear(at: number, text: string): void {
    const [, host = '', does = ''] =
      /^(\S+) (drains|is attached at|is back|gives blend|failed|goes back|was set aside)/.exec(text) ?? [];
    switch (does) {
      case 'drains':
        return this.begin(host, 'draining', at);
      case 'is attached at':
        return this.begin(host, 'attached in service', at);
      case 'is back':
      case 'gives blend':
        return this.finish(host);
      case 'failed':
        return this.fail(host);
      case 'goes back':
        this.doing.delete(host);
    }
  }

  /** What the books say against what was told. */
  end(): void {
    const { hosts, state } = this.rollout;
    for (const { name, stage } of hosts) {
      if ((stage === 'done') !== this.done.has(name)) this.wrong.push(`${name} is ${stage}, told otherwise`);
      const told = this.doing.get(name);
      if (state === 'done' && told !== undefined && told !== 'failed')
        this.wrong.push(`${name} never came back`);
    }
  }

  private begin(host: string, how: Doing, at: number): void {
    this.starts++;
    const before = this.doing.get(host);
    if (this.done.has(host)) this.wrong.push(`${host} began after it was done`);
    if (before !== undefined && before !== 'failed') this.wrong.push(`${host} began twice`);
    this.doing.set(host, how);
    const here = this.plansAt(at);
    if (!here.some((plan) => !plan.isPaused && this.isInside(plan, at)))
      this.wrong.push(`${host} began at ${new Date(at).toISOString()}, outside every window`);
    const working = [...this.doing.values()];
    const atWork = working.filter((doing) => doing !== 'failed').length;
    const out = working.filter((doing) => doing !== 'attached in service').length;
    if (!here.some(({ batch }) => atWork <= batch)) this.wrong.push(`${host} is the ${atWork}th at a time`);
    if (how === 'draining' && !here.some(({ maxUnavailable }) => out <= maxUnavailable))
      this.wrong.push(`${host} is the ${out}th out of service`);
  }

  private finish(host: string): void {
    if (!this.doing.delete(host)) this.wrong.push(`${host} was done without having begun`);
    if (this.done.has(host)) this.wrong.push(`${host} was done twice`);
    this.done.add(host);
  }

  private fail(host: string): void {
    this.failures++;
    const doing = this.doing.get(host);
    if (doing === undefined) this.wrong.push(`${host} failed without having begun`);
    // One that takes people meanwhile goes on taking them.
    if (doing === 'attached in service') this.doing.delete(host);
    else this.doing.set(host, 'failed');
  }

  /** Two where one took over from the other at that very instant. */
  private plansAt(at: number): readonly InForce[] {
    return this.rollout.plans.filter(({ from, until }) => from <= at && at <= until);
  }

  private isInside({ window }: InForce, at: number): boolean {
    for (const { start, end } of must(windowsFrom(window, this.rollout.windowsFrom))) {
      if (start > at) return false;
      if (at <= end) return true;
    }
    return false;
  }
}

/** Closed days are left out: a window on one of them counts as one. */
function rolloutsSince(own: Sqlite.Database, since: number): RolloutOnPaper[] {
  const rows = own
    .prepare(
      `select rollout.id, pool.name as pool, state, started_ms as startedAt, windows_from_ms as windowsFrom
       from rollout join pool on pool.id = pool_id where started_ms >= ? order by started_ms`,
    )
    .all(since) as Omit<RolloutOnPaper, 'hosts' | 'plans'>[];
  return rows.map((row) => ({ ...row, hosts: hostsOf(own, row.id), plans: plansOf(own, row.id) }));
}

function hostsOf(own: Sqlite.Database, id: string): RolloutOnPaper['hosts'] {
  return own
    .prepare(
      `select name, stage from rollout_host join known_host on known_host.id = host_id where rollout_id = ?`,
    )
    .all(id) as RolloutOnPaper['hosts'];
}

function plansOf(own: Sqlite.Database, id: string): InForce[] {
  const rows = own
    .prepare(
      `select at_ms, says, window_rule, window_start, window_end, zone, batch, max_unavailable
       from rollout_revision join plan on plan.id = plan_id where rollout_id = ? order by number`,
    )
    .all(id) as (Record<'says' | 'window_rule' | 'window_start' | 'window_end' | 'zone', string> &
    Record<'at_ms' | 'batch' | 'max_unavailable', number>)[];
  let isPaused = false;
  return rows.map((row, i) => {
    if (row.says.startsWith('paused')) isPaused = true;
    if (row.says === 'goes on') isPaused = false;
    return {
      from: row.at_ms,
      until: rows[i + 1]?.at_ms ?? Infinity,
      isPaused,
      window: { rule: row.window_rule, start: row.window_start, end: row.window_end, zone: row.zone },
      batch: row.batch,
      maxUnavailable: row.max_unavailable,
    };
  });
}
