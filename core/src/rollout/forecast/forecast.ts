/**
 * The rollout forecast: when will it be done, in how many windows, with how many seats left.
 *
 * A seeded discrete-event simulation, repeated `runs` times. In each run a host waits for a slot,
 * drains, is worked on for a log-normal time, and is done or fails; a failed host is tried again
 * up to `retries` times, then set aside out of service. See `docs/models.md`, "Rollout forecast".
 * Without randomness (p90 = median, failure rate 0) every run is the same and equals the
 * calculation by hand.
 */
import { quantile } from '../../quantile.ts';
import { must, ok, refuseAll, type Result } from '../../result.ts';
import type { Instant } from '../../time/instant.ts';
import { windowsFrom, type WindowSpan } from '../../time/windows.ts';
import type { Binding } from '../admission.ts';
import { planFaults, type RingPlan, type RolloutPlan } from './plan.ts';
import { minutesHeld, type HeldSpan, type RingRun } from './ring-run.ts';
import { MARKS, Simulation } from './simulation.ts';
import { WindowsAhead } from './windows-ahead.ts';

export interface HostSpan {
  /** Place among the plan's hosts, from 0, all rings counted through. */
  readonly index: number;
  readonly name: string;
  readonly start: Instant;
  readonly finish: Instant;
}

export interface Percentiles<T> {
  readonly p10: T;
  readonly p50: T;
  readonly p90: T;
}

/** What is forecast of a ring, and of the whole. */
export interface RingForecast {
  readonly name: string;
  /** When its gate opens; null where in a run of that place it never does. */
  readonly opens: Percentiles<Instant | null>;
  readonly finish: Percentiles<Instant | null>;
  readonly windowsUsed: Percentiles<number>;
  /** Share of the runs in which it finishes in its first window, 0 to 1. */
  readonly finishesInFirstWindow: number;
  /** Fewest seats left over expected sessions of its pool. */
  readonly minSeatsLeft: Percentiles<number>;
}

export interface Forecast extends Omit<RingForecast, 'name' | 'opens'> {
  /** Simulations that the answer stands on. */
  readonly runs: number;
  readonly rings: readonly RingForecast[];
  /** What held hosts back in the median run, longest first, in minutes of open window. */
  readonly binding: readonly { readonly constraint: Binding; readonly minutes: number }[];
  /** The same through time. */
  readonly held: readonly HeldSpan[];
  /** When each of equal parts of the hosts is through, the last one all of them. */
  readonly progress: readonly Percentiles<Instant | null>[];
  /** The median run: hosts that were through. */
  readonly hosts: readonly HostSpan[];
  /** Hosts set aside as failed in the median run. */
  readonly failed: number;
  /** The windows that the median run used. */
  readonly windows: readonly WindowSpan[];
}

/** What is kept of a ring in a run. */
interface RingFigures {
  readonly opens: Instant | null;
  readonly finish: Instant | null;
  readonly windows: number;
  readonly isInFirstWindow: boolean;
  readonly minSeatsLeft: number;
}

/** What is kept of a run; a thousand of them with all their hosts would fill the memory. */
export interface RunFigures extends Omit<RingFigures, 'opens'> {
  readonly seed: number;
  readonly rings: readonly RingFigures[];
  readonly throughAt: Float64Array;
}

/** Forecasts a plan. Errors: everything `planFaults` finds. */
export function forecast(plan: RolloutPlan): Result<Forecast> {
  const faults = planFaults(plan);
  if (faults.length > 0) return refuseAll(faults);
  const runs = new ForecastRuns(plan);
  return ok(runs.answer(runs.figures(0, runs.count)));
}

/**
 * The runs of a plan, to be made in parts, by several workers or one after the other: the answer
 * stands on whatever figures it is given. The plan must be free of faults.
 */
export class ForecastRuns {
  /** Runs that the plan needs: one where nothing is left to chance. */
  readonly count: number;
  private readonly windows: readonly WindowsAhead[];

  constructor(private readonly plan: RolloutPlan) {
    const known = new Map<string, WindowsAhead>();
    this.windows = plan.rings.map((ring) => windowsOf(ring, plan, known));
    this.count = plan.rings.every(isCertain) ? 1 : plan.runs;
  }

  /** The figures of the runs from one on, up to another. */
  figures(from: number, to: number): RunFigures[] {
    const found: RunFigures[] = [];
    for (let i = from; i < to; i++) found.push(figuresOf(this.simulation(this.seedOf(i)), this.seedOf(i)));
    return found;
  }

  answer(figures: readonly RunFigures[]): Forecast {
    const byFinish = [...figures].sort((a, b) => (a.finish ?? Infinity) - (b.finish ?? Infinity));
    const middle = byFinish[Math.max(0, Math.ceil(byFinish.length / 2) - 1)];
    if (!middle) throw new Error('a forecast stands on one run at least');
    // The median run is made again, since only its figures were kept.
    const run = this.simulation(middle.seed);
    const held = run.rings.flatMap((ring) => ring.held).sort((a, b) => a.from - b.from);
    return {
      runs: figures.length,
      ...summary(figures),
      rings: this.plan.rings.map(({ name }, i) => {
        const own = figures.flatMap((one) => one.rings[i] ?? []);
        return { name, opens: instants(own.map((one) => one.opens)), ...summary(own) };
      }),
      binding: minutesHeld(held),
      held,
      progress: Array.from({ length: MARKS }, (_, mark) =>
        instants(figures.map(({ throughAt }) => finite(throughAt[mark]))),
      ),
      hosts: spansOf(run, this.plan.rings),
      failed: run.rings.reduce((sum, ring) => sum + ring.setAside, 0),
      windows: windowsUsed(run),
    };
  }

  private seedOf(run: number): number {
    return this.plan.seed + run * 7919;
  }

  private simulation(seed: number): Simulation {
    return new Simulation(this.plan, this.windows, seed).run();
  }
}

/** Rings with the same windows share their list. */
function windowsOf({ window }: RingPlan, plan: RolloutPlan, known: Map<string, WindowsAhead>): WindowsAhead {
  const { rule, start, end, zone, closed } = window;
  const key = JSON.stringify([rule, start, end, zone, closed && [[...closed.dates], closed.spans]]);
  let windows = known.get(key);
  if (!windows) {
    windows = new WindowsAhead(must(windowsFrom(window, plan.from)), plan.resumeAt ?? plan.from);
    known.set(key, windows);
  }
  return windows;
}

/** Whether nothing is left to chance. */
function isCertain({ work, failure, drain, seats, inService }: RingPlan): boolean {
  const steadyDrain = drain.limitMinutes === 0 || !seats || !drain.session;
  const steadyChecks = !inService || inService.checks.everyMinutes === 0;
  return work.p90Minutes === work.medianMinutes && failure.rate === 0 && steadyDrain && steadyChecks;
}

function figuresOf(run: Simulation, seed: number): RunFigures {
  const rings = run.rings.map((ring) => ({
    opens: ring.opensAt,
    finish: ring.isFinished ? ring.lastFinish : null,
    windows: ring.used.length,
    isInFirstWindow: isInFirstWindow(ring),
    minSeatsLeft: run.fewestSeatsOf(ring),
  }));
  const first = rings[0];
  return {
    seed,
    finish: run.end,
    windows: windowsUsed(run).length,
    isInFirstWindow: rings.length === 1 ? (first?.isInFirstWindow ?? false) : endsInFirst(run),
    minSeatsLeft: run.fewestSeats,
    rings,
    throughAt: run.throughAt,
  };
}

function isInFirstWindow({ isFinished, lastFinish, firstWindow }: RingRun): boolean {
  return isFinished && firstWindow !== undefined && lastFinish <= firstWindow.end;
}

function endsInFirst(run: Simulation): boolean {
  const [first] = run.rings;
  return run.end !== null && first?.firstWindow !== undefined && run.end <= first.firstWindow.end;
}

function windowsUsed(run: Simulation): WindowSpan[] {
  const used = new Map<string, WindowSpan>();
  for (const ring of run.rings)
    for (const window of ring.used) used.set(`${window.start} ${window.end}`, window);
  return [...used.values()].sort((a, b) => a.start - b.start);
}

function summary(figures: readonly Omit<RingFigures, 'opens'>[]) {
  return {
    finish: instants(figures.map((one) => one.finish)),
    windowsUsed: numbers(figures.map((one) => one.windows)),
    finishesInFirstWindow: figures.filter((one) => one.isInFirstWindow).length / figures.length,
    minSeatsLeft: numbers(figures.map((one) => one.minSeatsLeft)),
  };
}

/** Those that never come are the latest. */
function instants(list: readonly (Instant | null)[]): Percentiles<Instant | null> {
  const sorted = list.map((at) => at ?? Infinity).sort((a, b) => a - b);
  const at = (p: number) => finite(quantile(sorted, p));
  return { p10: at(0.1), p50: at(0.5), p90: at(0.9) };
}

function numbers(list: readonly number[]): Percentiles<number> {
  const sorted = [...list].sort((a, b) => a - b);
  const at = (p: number) => quantile(sorted, p) ?? 0;
  return { p10: at(0.1), p50: at(0.5), p90: at(0.9) };
}

function finite(n: number | undefined): number | null {
  return n !== undefined && Number.isFinite(n) ? n : null;
}

/** Hosts that were through, in the order of the plan. */
function spansOf(run: Simulation, rings: readonly RingPlan[]): HostSpan[] {
  return rings
    .flatMap((ring) => ring.hosts)
    .flatMap((name, index) => {
      const [start = 0, finish = 0] = [run.startedAt[index], run.finishedAt[index]];
      return finish > 0 ? [{ index, name, start, finish }] : [];
    });
}
