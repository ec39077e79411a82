/** What is planned, as a calendar that other programs subscribe to. */
import type { TapeItem } from '@vatline/contract/home';
import { calendarText } from '@vatline/core/time/calendar-text';
import { DAY } from '@vatline/core/time/instant';
import type { Parts } from '../platform/parts.ts';
import type { Stores } from './stores.ts';
import { tapeItems } from './tape.ts';

export async function plannedCalendar(parts: Parts, stores: Stores, weeks: number): Promise<string> {
  const now = parts.estate.clock.now();
  const items = await tapeItems(parts, stores, now, now + weeks * 7 * DAY);
  return calendarText({
    name: 'Vat Line',
    madeAt: now,
    events: items.filter(isPlanned).map(({ id, label, start, end, kind }) => ({
      id: `${id}@vat-line`,
      summary: kind === 'rollout' ? `Rollout of ${label}` : label,
      start,
      end,
    })),
  });
}

/** Not what runs or has been: a calendar is for what people have to know beforehand. */
function isPlanned({ kind }: TapeItem): boolean {
  return kind === 'rollout' || kind === 'planned';
}
