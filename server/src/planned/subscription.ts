/** What is planned, as a calendar that other programs subscribe to. */
import { MOST_PLANNED, type Planned } from '@vatline/contract/planned';
import { calendarText } from '@vatline/core/time/calendar-text';
import { DAY } from '@vatline/core/time/instant';
import type { Parts } from '../platform/parts.ts';
import { plannedWork, type PlannedStores } from './work.ts';

/** Not what has been: a calendar is for what people have to know beforehand. */
export async function subscription(parts: Parts, stores: PlannedStores, weeks: number): Promise<string> {
  const now = parts.estate.clock.now();
  const planned = await plannedWork(parts, stores, now, now + weeks * 7 * DAY);
  return calendarText({
    name: 'Vat Line',
    madeAt: now,
    events: planned
      .filter(({ isOver }) => !isOver)
      .slice(0, MOST_PLANNED)
      .map((one) => ({
        id: `${one.id}@vat-line`,
        summary: summaryOf(one),
        start: one.start,
        end: one.worksUntil,
      })),
  });
}

function summaryOf({ kind, label, hosts }: Planned): string {
  if (kind === 'cut') return label;
  return kind === 'rollout' ? `Rollout of ${label} ${hosts ?? ''}`.trim() : `then ${label}`;
}
