/** Asks the worker pool for forecasts. Plans must be free of faults. */
import { workOf } from '../platform/workers.ts';
import type * as forecastFunctions from './forecast-worker.ts';

export const forecastWork = workOf<typeof forecastFunctions>('rollout/forecast-worker.js');
