/** How a rollout gets on: hosts done over time against its forecasts. */
import { MOST_STEPS, progressEndpoints, type RolloutProgress } from '@vatline/contract/rollout-progress';
import { doneSteps, type Marks } from '@vatline/core/rollout/progress';
import { windowsFrom } from '@vatline/core/time/windows';
import { fromJson } from '../platform/database.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import type { Plans } from './plans.ts';
import type { RolloutStore } from './store.ts';

/** A night of each week of a year; more are no picture any more. */
const MOST_WINDOWS = 60;

export function progressRoutes(door: Door, parts: Parts, plans: Plans, store: RolloutStore): void {
  door.serve(progressEndpoints.get, async ({ params: { id } }): Promise<RolloutProgress> => {
    const row = await store.rollout(id);
    const { hosts, done } = await store.counts(id);
    const finished = await parts.db
      .selectFrom('rollout_host')
      .select('finished_ms')
      .where('rollout_id', '=', id)
      .where('stage', '=', 'done')
      .execute();
    const rest = await store.rest(row);
    const until = row.ended_ms ?? rest?.marks.at(-1)?.p90 ?? parts.estate.clock.now();
    const rule = await plans.windowRule(await plans.get(row.plan_id), row.windows_from_ms);
    const windows: { start: number; end: number }[] = [];
    const all = windowsFrom(rule, row.windows_from_ms);
    for (const { start, end } of all.ok ? all.value : []) {
      if (start > until || windows.length >= MOST_WINDOWS) break;
      windows.push({ start, end });
    }
    return {
      hosts,
      done,
      steps: doneSteps(
        finished.flatMap(({ finished_ms }) => finished_ms ?? []),
        MOST_STEPS,
      ),
      promised: row.promised_progress_json === null ? null : [...fromJson<Marks>(row.promised_progress_json)],
      rest,
      windows,
    };
  });
}
