/** Forecasts, run in the worker pool: a thousand runs of a large pool take seconds. */
import { forecast, type Forecast, type RolloutPlan } from '@vatline/core/rollout/forecast';
import { suggestions, type Suggestion } from '@vatline/core/rollout/suggestions';
import { must } from '@vatline/core/result';

export function forecastPlan(plan: RolloutPlan): Forecast {
  return must(forecast(plan));
}

export function suggestFor(plan: RolloutPlan): Suggestion[] {
  return suggestions(plan, must(forecast({ ...plan, runs: Math.min(plan.runs, 200) })));
}
