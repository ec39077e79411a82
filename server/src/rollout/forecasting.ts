/** Asks the worker pool for forecasts. Plans must be free of faults. */
import { ForecastRuns, type Forecast } from '@vatline/core/rollout/forecast/forecast';
import type { RolloutPlan } from '@vatline/core/rollout/forecast/plan';
import { workOf, type RunOptions, type Workers } from '../platform/workers.ts';
import type * as forecastFunctions from './forecast-worker.ts';

export const forecastWork = workOf<typeof forecastFunctions>('rollout/forecast-worker.js');

/** Below so many hosts over all runs, handing over costs more than it saves. */
const WORTH_SHARING = 100_000;
const WORKERS = 2;

/** A forecast by as many workers as are worth it; the same answer however many there were. */
export async function forecastOf(
  parts: { readonly workers: Workers },
  plan: RolloutPlan,
  options: RunOptions = {},
): Promise<Forecast> {
  const hosts = plan.rings.reduce((sum, ring) => sum + ring.hosts.length, 0);
  const { count } = new ForecastRuns(plan);
  if (hosts * count < WORTH_SHARING) return forecastWork(parts, 'forecastPlan', plan, options);
  const share = Math.ceil(count / WORKERS);
  const figures = await Promise.all(
    Array.from({ length: WORKERS }, (_, i) =>
      forecastWork(
        parts,
        'figuresOf',
        { plan, from: i * share, to: Math.min(count, (i + 1) * share) },
        options,
      ),
    ),
  );
  return forecastWork(parts, 'answerFrom', { plan, figures: figures.flat() }, options);
}
