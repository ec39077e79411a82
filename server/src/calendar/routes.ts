import { calendarEndpoints, type Calendar } from '@vatline/contract/calendar';
import { formatDate, wallClock } from '@vatline/core/time/zone';
import { change, DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Note } from '../platform/journal.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import type { CalendarStore } from './store.ts';
import type { CalendarHead } from './tables.ts';

/** Enough to see whether it is the calendar that was meant. */
const SHOWN = 5;

/** Those who keep to calendars, as far as these need to know them. */
export interface CalendarUsers {
  /** Rollouts under way that keep to each calendar, by its identifier. */
  use(): Promise<ReadonlyMap<string, Calendar['usedBy']>>;
  /** What would keep to one later, each as the beginning of a sentence. */
  later(calendarId: string): Promise<readonly string[]>;
  /** What a rollout waits for may be another window now. */
  lookAgain(rolloutId: string): Promise<void>;
}

export function calendarRoutes(
  door: Door,
  parts: Parts,
  store: CalendarStore,
  { use, later, lookAgain }: CalendarUsers,
): void {
  door.serve(calendarEndpoints.list, async () => {
    const users = await use();
    return Promise.all(
      (await store.all()).map(async (row) => ({
        id: row.id,
        name: row.name,
        revision: row.revision,
        keptAt: row.kept_ms,
        ...(await nextClosed(row)),
        usedBy: users.get(row.id) ?? [],
      })),
    );
  });

  const nextClosed = async (row: CalendarHead) => {
    const { clock } = parts.estate;
    const result = await store.closedBy(row, clock.zone, clock.now());
    if (!result.ok) return { nextDates: [], nextSpans: [] };
    const today = formatDate(wallClock(clock.zone, clock.now()));
    const dates = [...result.value.dates].filter((date) => date >= today).sort();
    const spans = result.value.spans.toSorted((a, b) => a.start - b.start);
    return { nextDates: dates.slice(0, SHOWN), nextSpans: spans.slice(0, SHOWN) };
  };

  door.serve(calendarEndpoints.add, async ({ body: { name, text } }) => {
    await store.refuseUnreadable(text);
    return change(
      parts,
      async () => ({ id: await store.add(name, text) }),
      ({ id }) => calendarNote(id, `The calendar ${name} is kept`),
    );
  });

  door.serve(calendarEndpoints.replace, async ({ params: { id }, body: { text, basedOn } }) => {
    const { name } = await store.get(id);
    await store.refuseUnreadable(text);
    const kept = await change(
      parts,
      async () => ({ revision: await store.replace(id, text, basedOn) }),
      ({ revision }) => calendarNote(id, `The calendar ${name}: revision ${revision} was kept`),
    );
    for (const { rolloutId } of (await use()).get(id) ?? []) await lookAgain(rolloutId);
    return kept;
  });

  door.serve(calendarEndpoints.remove, async ({ params: { id } }) => {
    const { name } = await store.get(id);
    return change(
      parts,
      async () => {
        const [first] = (await use()).get(id) ?? [];
        if (first) throw conflict(`The rollout of ${first.pool} keeps to ${name}; stop it first`);
        const [next] = await later(id);
        if (next !== undefined) throw conflict(`${next} keeps to ${name}; take it out there first`);
        await store.remove(id);
        return DONE;
      },
      () => calendarNote(id, `The calendar ${name} was forgotten`),
    );
  });
}

function calendarNote(id: string, text: string): Omit<Note, 'at'> {
  return { kind: 'rollout', subject: `calendar:${id}`, text, link: '/rollouts' };
}
