/** What else would work: other plans, each checked by a forecast of its own. */
import { forecast, type Forecast, type RolloutPlan } from './forecast.ts';
import type { Instant } from '../time/instant.ts';
import { formatWallTime, parseWallTime } from '../time/zone.ts';

export type SuggestionKind =
  'smallest batch for one window' | 'largest batch that keeps the seats' | 'longer window';

export interface Suggestion {
  readonly kind: SuggestionKind;
  readonly batch: number;
  /** The wall time at which the window would have to end, `HH:MM`; as now unless the kind says so. */
  readonly windowEnd: string;
  readonly finish: Instant | null;
  readonly minSeatsLeft: number;
}

/** Fewer runs are enough to tell plans apart; the chosen one is forecast in full again. */
const TRIAL_RUNS = 100;

/** At most three suggestions, none of which is the plan itself. */
export function suggestions(plan: RolloutPlan, answer: Forecast): Suggestion[] {
  const trial = { ...plan, runs: Math.min(plan.runs, TRIAL_RUNS) };
  const found: Suggestion[] = [];
  const add = (kind: SuggestionKind, candidate: RolloutPlan | undefined) => {
    const checked = candidate && forecast(candidate);
    if (!candidate || !checked?.ok) return;
    if (candidate.batch === plan.batch && candidate.window.end === plan.window.end) return;
    const { finish, minSeatsLeft } = checked.value;
    found.push({
      kind,
      batch: candidate.batch,
      windowEnd: candidate.window.end,
      finish: finish.p90,
      minSeatsLeft: minSeatsLeft.p10,
    });
  };
  add('smallest batch for one window', smallestBatch(trial, inOneWindow));
  if (plan.seats) add('largest batch that keeps the seats', largestBatch(trial, keepsSeats(plan)));
  if (answer.finishesInFirstWindow < 0.9) add('longer window', longerWindow(trial));
  return found;
}

const inOneWindow = (answer: Forecast) => answer.finishesInFirstWindow >= 0.9;
const keepsSeats = (plan: RolloutPlan) => (answer: Forecast) =>
  answer.minSeatsLeft.p10 >= 0 && answer.finish.p90 !== null && plan.seats !== undefined;

function withBatch(plan: RolloutPlan, batch: number): RolloutPlan {
  return { ...plan, batch, maxUnavailable: Math.max(plan.maxUnavailable, batch) };
}

function holds(plan: RolloutPlan, test: (answer: Forecast) => boolean): boolean {
  const answer = forecast(plan);
  return answer.ok && test(answer.value);
}

/** Binary search: a larger batch never finishes later. */
function smallestBatch(plan: RolloutPlan, test: (answer: Forecast) => boolean): RolloutPlan | undefined {
  let low = 1;
  let high = plan.hosts.length;
  if (!holds(withBatch(plan, high), test)) return undefined;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (holds(withBatch(plan, middle), test)) high = middle;
    else low = middle + 1;
  }
  return withBatch(plan, high);
}

/** Binary search on the plan without the seat rule: a smaller batch never takes more seats. */
function largestBatch(plan: RolloutPlan, test: (answer: Forecast) => boolean): RolloutPlan | undefined {
  let low = 0;
  let high = plan.hosts.length;
  const unguarded = (batch: number): RolloutPlan => {
    const seats = plan.seats && { ...plan.seats, reserve: -1 };
    return { ...withBatch(plan, batch), ...(seats ? { seats } : {}) };
  };
  while (low < high) {
    const middle = (low + high + 1) >> 1;
    if (holds(unguarded(middle), test)) low = middle;
    else high = middle - 1;
  }
  return low === 0 ? undefined : withBatch(plan, low);
}

/** Tries window ends in half hours, up to twelve hours later. */
function longerWindow(plan: RolloutPlan): RolloutPlan | undefined {
  const now = parseWallTime(plan.window.end) ?? 0;
  for (let more = 30; more <= 720; more += 30) {
    const end = formatWallTime(now + more);
    if (end === plan.window.start) return undefined;
    const candidate = { ...plan, window: { ...plan.window, end } };
    if (holds(candidate, inOneWindow)) return candidate;
  }
  return undefined;
}
