/** Asks the worker pool for forecasts. Plans must be free of faults. */
import type { Piscina } from 'piscina';
import type { Forecast, RolloutPlan } from '@vatline/core/rollout/forecast';
import type { Suggestion } from '@vatline/core/rollout/suggestions';
import { workerFile } from '../platform/workers.ts';

const filename = workerFile('rollout/forecast-worker.js');

export function forecastInWorker(workers: Piscina, plan: RolloutPlan): Promise<Forecast> {
  return workers.run(plan, { filename, name: 'forecastPlan' }) as Promise<Forecast>;
}

export function suggestInWorker(workers: Piscina, plan: RolloutPlan): Promise<Suggestion[]> {
  return workers.run(plan, { filename, name: 'suggestFor' }) as Promise<Suggestion[]>;
}
