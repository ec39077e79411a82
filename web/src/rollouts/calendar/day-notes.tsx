/** What is special about a day: calendars that close it, and clocks that change. */
import type { LocalDate } from '@vatline/core/time/zone';
import { formatDate, wallClock } from '@vatline/core/time/zone';

export interface DayNote {
  readonly kind: 'closed' | 'clocks';
  readonly text: string;
}

interface Special {
  readonly closed: readonly { readonly date: string; readonly calendars: readonly string[] }[];
  readonly clockChanges: readonly { readonly at: number; readonly minutes: number }[];
}

/** By local date. */
export function dayNotes({ closed, clockChanges }: Special, zone: string): Map<string, DayNote[]> {
  const notes = new Map<string, DayNote[]>();
  const add = (date: string, note: DayNote) => notes.set(date, [...(notes.get(date) ?? []), note]);
  for (const { date, calendars } of closed)
    add(date, { kind: 'closed', text: `closed: ${calendars.join(', ')}` });
  for (const { at, minutes } of clockChanges) {
    // The night that is shorter or longer is named by the day on which the change falls.
    const date: LocalDate = wallClock(zone, at);
    add(formatDate(date), { kind: 'clocks', text: `clocks go ${minutes > 0 ? 'forward' : 'back'}` });
  }
  return notes;
}

export function DayNotes({ notes }: { readonly notes: readonly DayNote[] }) {
  return notes.map(({ kind, text }) => (
    <span key={text} className={`day-note ${kind}`} title={text}>
      {text}
    </span>
  ));
}
