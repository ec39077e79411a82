/** What else would work: other plans, each checked by a forecast of its own. */
import { forecast, type Forecast } from './forecast/forecast.ts';
import type { RingPlan, RolloutPlan } from './forecast/plan.ts';
import type { Instant } from '../time/instant.ts';
import { formatWallTime, parseWallTime } from '../time/zone.ts';

export type SuggestionKind =
  'smallest batch for one window' | 'largest batch that keeps the seats' | 'longer window';

export interface Suggestion {
  readonly kind: SuggestionKind;
  /** The ring that it changes. */
  readonly ring: string;
  readonly batch: number;
  /** The wall time at which the window would have to end, `HH:MM`; as now unless the kind says so. */
  readonly windowEnd: string;
  /** When the whole would be done, 9 in 10. */
  readonly finish: Instant | null;
  readonly minSeatsLeft: number;
}

/** Fewer runs are enough to tell plans apart; the chosen one is forecast in full again. */
const TRIAL_RUNS = 100;

/** A plan in which one ring may be changed. */
interface Trial {
  readonly plan: RolloutPlan;
  readonly number: number;
}

type Test = (answer: Forecast, ring: number) => boolean;

/** At most three suggestions for each ring, none of which is the ring as it is. */
export function suggestions(plan: RolloutPlan, answer: Forecast): Suggestion[] {
  const short = { ...plan, runs: Math.min(plan.runs, TRIAL_RUNS) };
  return plan.rings.flatMap((ring, number) => {
    const trial = { plan: short, number };
    const inOne = (answer.rings[number]?.finishesInFirstWindow ?? 0) >= 0.9;
    return [
      suggestion('smallest batch for one window', trial, smallestBatch(trial, inOneWindow)),
      ring.seats
        ? suggestion('largest batch that keeps the seats', trial, largestBatch(trial, keepsSeats))
        : undefined,
      inOne ? undefined : suggestion('longer window', trial, longerWindow(trial)),
    ].flatMap((found) => found ?? []);
  });
}

function suggestion(
  kind: SuggestionKind,
  trial: Trial,
  changed: RingPlan | undefined,
): Suggestion | undefined {
  const ring = ringOf(trial);
  if (!changed || (changed.batch === ring.batch && changed.window.end === ring.window.end)) return undefined;
  const checked = forecast(withRing(trial, changed));
  if (!checked.ok) return undefined;
  return {
    kind,
    ring: ring.name,
    batch: changed.batch,
    windowEnd: changed.window.end,
    finish: checked.value.finish.p90,
    minSeatsLeft: checked.value.rings[trial.number]?.minSeatsLeft.p10 ?? 0,
  };
}

const inOneWindow: Test = (answer, ring) => (answer.rings[ring]?.finishesInFirstWindow ?? 0) >= 0.9;
const keepsSeats: Test = (answer, ring) =>
  (answer.rings[ring]?.minSeatsLeft.p10 ?? -1) >= 0 && answer.rings[ring]?.finish.p90 !== null;

function ringOf({ plan, number }: Trial): RingPlan {
  return plan.rings[number] as RingPlan;
}

function withRing({ plan, number }: Trial, ring: RingPlan): RolloutPlan {
  return { ...plan, rings: plan.rings.with(number, ring) };
}

function withBatch(ring: RingPlan, batch: number): RingPlan {
  return { ...ring, batch, maxUnavailable: Math.max(ring.maxUnavailable, batch) };
}

function holds(trial: Trial, ring: RingPlan, test: Test): boolean {
  const answer = forecast(withRing(trial, ring));
  return answer.ok && test(answer.value, trial.number);
}

/** Binary search: a larger batch never finishes later. */
function smallestBatch(trial: Trial, test: Test): RingPlan | undefined {
  const ring = ringOf(trial);
  let low = 1;
  let high = ring.hosts.length;
  if (!holds(trial, withBatch(ring, high), test)) return undefined;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (holds(trial, withBatch(ring, middle), test)) high = middle;
    else low = middle + 1;
  }
  return withBatch(ring, high);
}

/** Binary search on the ring without the seat rule: a smaller batch never takes more seats. */
function largestBatch(trial: Trial, test: Test): RingPlan | undefined {
  const ring = ringOf(trial);
  let low = 0;
  let high = ring.hosts.length;
  const unguarded = (batch: number): RingPlan => {
    const seats = ring.seats && { ...ring.seats, reserve: -1 };
    return { ...withBatch(ring, batch), ...(seats ? { seats } : {}) };
  };
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (holds(trial, unguarded(middle), test)) low = middle;
    else high = middle - 1;
  }
  return low === 0 ? undefined : withBatch(ring, low);
}

/** Tries window ends in half hours, up to twelve hours later. */
function longerWindow(trial: Trial): RingPlan | undefined {
  const ring = ringOf(trial);
  const now = parseWallTime(ring.window.end) ?? 0;
  for (let more = 30; more <= 720; more += 30) {
    const end = formatWallTime(now + more);
    if (end === ring.window.start) return undefined;
    const candidate = { ...ring, window: { ...ring.window, end } };
    if (holds(trial, candidate, inOneWindow)) return candidate;
  }
  return undefined;
}
