/** Forecasts, run in the worker pool: a thousand runs of a large pool take seconds. */
import {
  ForecastRuns,
  forecast,
  type Forecast,
  type RunFigures,
} from '@vatline/core/rollout/forecast/forecast';
import type { RolloutPlan } from '@vatline/core/rollout/forecast/plan';
import { suggestions, type Suggestion } from '@vatline/core/rollout/suggestions';
import { must } from '@vatline/core/result';

export interface SomeRuns {
  readonly plan: RolloutPlan;
  readonly from: number;
  readonly to: number;
}

/** Some runs of a plan: another worker makes the rest of them. */
export function figuresOf({ plan, from, to }: SomeRuns): RunFigures[] {
  return new ForecastRuns(plan).figures(from, to);
}

export interface AllFigures {
  readonly plan: RolloutPlan;
  readonly figures: readonly RunFigures[];
}

export function answerFrom({ plan, figures }: AllFigures): Forecast {
  return new ForecastRuns(plan).answer(figures);
}

export function forecastPlan(plan: RolloutPlan): Forecast {
  return must(forecast(plan));
}

export function suggestFor(plan: RolloutPlan): Suggestion[] {
  return suggestions(plan, must(forecast({ ...plan, runs: Math.min(plan.runs, 200) })));
}
