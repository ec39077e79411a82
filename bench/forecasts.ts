/** What forecasts of rollouts cost, in one thread and shared by the workers, each beside less of the same. */
import { ForecastRuns } from '@vatline/core/rollout/forecast/forecast';
import type { RolloutPlan } from '@vatline/core/rollout/forecast/plan';
import { numberedHosts } from '@vatline/core/rollout/planned-hosts';
import { must } from '@vatline/core/result';
import { listWindows } from '@vatline/core/time/windows';
import { openWorkers } from '@vatline/server/platform/workers';
import { forecastOf, forecastWork } from '@vatline/server/rollout/forecasting';

/** A pool of multi-session hosts by night: people to drain, seats to keep, attempts that fail. */
function nightPlan(hosts: number, runs: number): RolloutPlan {
  const expected = Array.from({ length: 24 }, (_, h) => hosts * (h >= 8 && h < 18 ? 7 : 0.5));
  const batch = Math.max(1, hosts / 10);
  return {
    from: Date.UTC(2027, 2, 22, 8),
    rings: [
      {
        name: 'all',
        window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00', zone: 'Europe/Dublin' },
        hosts: numberedHosts(hosts),
        batch,
        maxUnavailable: batch,
        work: { medianMinutes: 25, p90Minutes: 32 },
        drain: { limitMinutes: 30, session: { medianMinutes: 30, p90Minutes: 90 } },
        failure: { rate: 0.01, retries: 1 },
        seats: { hosts, perHost: 10, expected, reserve: 0.1, zone: 'Europe/Dublin' },
      },
    ],
    runs,
    seed: 1,
  };
}

const ROUNDS = 3;

/** Seconds of one run of so many hosts, the best of a few; what is compiled once is compiled before. */
export function oneRun(hosts: number): number {
  new ForecastRuns(nightPlan(1_000, 20)).figures(0, 20);
  let least = Infinity;
  for (let i = 0; i < ROUNDS; i++) {
    const runs = new ForecastRuns(nightPlan(hosts, 1));
    const started = performance.now();
    runs.figures(0, 1);
    least = Math.min(least, performance.now() - started);
  }
  return least / 1000;
}

export interface SharedCost {
  readonly shared: number;
  readonly alone: number;
  /** Memory of the whole process while they were made, at most. */
  readonly megabytes: number;
}

/** Seconds of a whole forecast by all workers, and by one. */
export async function wholeForecast(hosts: number, runs: number): Promise<SharedCost> {
  const workers = openWorkers();
  let megabytes = 0;
  const watch = setInterval(() => (megabytes = Math.max(megabytes, process.memoryUsage.rss() / 1e6)), 20);
  try {
    const plan = nightPlan(hosts, runs);
    // Both threads are there and warm.
    await forecastOf({ workers }, nightPlan(1_000, 200));
    const [shared, alone] = [
      await seconds(() => forecastOf({ workers }, plan)),
      await seconds(() => forecastWork({ workers }, 'forecastPlan', plan)),
    ];
    return { shared, alone, megabytes };
  } finally {
    clearInterval(watch);
    await workers.close();
  }
}

async function seconds(work: () => Promise<unknown>): Promise<number> {
  const started = performance.now();
  await work();
  return (performance.now() - started) / 1000;
}

/** Seconds for weekly windows of so many years. */
export function weeklyWindows(years: number): number {
  const rule = { rule: 'FREQ=WEEKLY;BYDAY=SU', start: '01:00', end: '05:00', zone: 'Europe/Dublin' };
  const started = performance.now();
  const windows = must(listWindows(rule, Date.UTC(2027, 0, 1), years * 52));
  if (windows.length !== years * 52) throw new Error('windows are missing');
  return (performance.now() - started) / 1000;
}
