/** A month as weeks: what begins on each day, its closed days and clock changes. */
import { useDroppable } from '@dnd-kit/core';
import type { Planned } from '@vatline/contract/planned';
import { day as dayName } from '../../parts/format.ts';
import type { CalendarDay } from './calendar-days.ts';
import { DayNotes, type DayNote } from './day-notes.tsx';
import { PlannedMark } from './planned-mark.tsx';

export interface ViewProps {
  readonly days: readonly CalendarDay[];
  readonly byDay: ReadonlyMap<string, readonly Planned[]>;
  readonly notes: ReadonlyMap<string, readonly DayNote[]>;
  /** What collides with something, by what all its windows have in common. */
  readonly colliding: ReadonlySet<string>;
  readonly zone: string;
  readonly now: number;
  readonly onDay: (day: CalendarDay) => void;
}

/** Of a day so many are shown; a day with more has one line that says how many. */
const SHOWN = 3;
const weekdays = ['Mon', 'Tue', 'Wed', 'Thu', 'Fri', 'Sat', 'Sun'];

export function MonthView(props: ViewProps) {
  return (
    <div className="month" role="group" aria-label="Month">
      {weekdays.map((name) => (
        <b key={name} className="month-head">
          {name}
        </b>
      ))}
      {props.days.map((day) => (
        <MonthDay key={day.key} day={day} {...props} />
      ))}
    </div>
  );
}

function MonthDay({
  day,
  byDay,
  notes,
  colliding,
  zone,
  now,
  onDay,
}: ViewProps & { readonly day: CalendarDay }) {
  const { setNodeRef, isOver } = useDroppable({ id: day.key, data: { day } });
  const planned = byDay.get(day.key) ?? [];
  const shown = planned.length > SHOWN ? planned.slice(0, SHOWN - 1) : planned;
  const isToday = day.start <= now && now < day.end;
  const own = notes.get(day.key) ?? [];
  const states = [
    !day.isInMonth && 'beside',
    isToday && 'today',
    isOver && 'target',
    isClosed(own) && 'closed',
  ];
  return (
    <div ref={setNodeRef} className={['month-day', ...states.filter(Boolean)].join(' ')}>
      <button
        type="button"
        className="month-date"
        onClick={() => onDay(day)}
        aria-label={`${dayName(day.start, zone)}, ${planned.length} planned`}
      >
        {day.date.day === 1 ? dayName(day.start, zone).slice(4) : day.date.day}
      </button>
      <DayNotes notes={own} />
      {shown.map((one) => (
        <PlannedMark key={one.id} planned={one} zone={zone} collides={colliding.has(one.of)} />
      ))}
      {planned.length > shown.length && (
        <button type="button" className="month-more" onClick={() => onDay(day)}>
          and {planned.length - shown.length} more
        </button>
      )}
    </div>
  );
}

function isClosed(notes: readonly DayNote[]): boolean {
  return notes.some(({ kind }) => kind === 'closed');
}
