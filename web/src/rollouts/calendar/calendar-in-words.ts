/** What a calendar comes to, in a sentence. */
import type { Planned } from '@vatline/contract/planned';
import type { LocalDate } from '@vatline/core/time/zone';
import { plural } from '../../parts/format.ts';
import type { CalendarView } from './calendar-days.ts';

const months = 'January February March April May June July August September October November December'.split(
  ' ',
);

/** `March 2027`. */
export function monthName({ year, month }: LocalDate): string {
  return `${months[month - 1] ?? ''} ${year}`;
}

/** Collisions first, since those are what somebody has to do something about. */
export function planInWords(
  planned: readonly Planned[],
  collisions: number,
  view: CalendarView,
  date: LocalDate,
): string {
  const ahead = planned.filter(({ isOver }) => !isOver);
  const month = months[date.month - 1] ?? '';
  const when = view === 'week' ? `the week from ${date.day} ${month}` : month;
  if (ahead.length === 0)
    return planned.length === 0 ? `Nothing is planned for ${when}.` : `Nothing is left to come in ${when}.`;
  const count = (test: (one: Planned) => boolean) => new Set(ahead.filter(test).map(({ of }) => of)).size;
  const rollouts = count(({ kind }) => kind !== 'cut');
  const cuts = count(({ kind }) => kind === 'cut');
  const what = [rollouts > 0 && plural(rollouts, 'rollout'), cuts > 0 && plural(cuts, 'cut')].filter(Boolean);
  const meets = collisions === 0 ? 'nothing collides' : plural(collisions, 'collision');
  return `${what.join(' and ')} to come, ${meets}.`;
}
