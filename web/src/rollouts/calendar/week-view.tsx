/** A week as lanes, a day each, on one axis of hours: how much of each window is used, and what lies beside it. */
import { useDroppable } from '@dnd-kit/core';
import { useLayoutEffect, useRef, useState } from 'react';
import type { Planned } from '@vatline/contract/planned';
import { wallClock } from '@vatline/core/time/zone';
import { dyeBackground } from '../../parts/hatch.ts';
import { day as dayName } from '../../parts/format.ts';
import { layOutTape, type Placed } from '../../parts/tape-layout.ts';
import type { CalendarDay } from './calendar-days.ts';
import { DayNotes } from './day-notes.tsx';
import type { ViewProps } from './month-view.tsx';
import { markClass, plannedInWords, usePlannedDrag } from './planned-mark.tsx';

const HOURS = [0, 3, 6, 9, 12, 15, 18, 21];
const ROW = 22;
const EDGE = 4;
const DAY_MINUTES = 1_440;

/** Tells its width in pixels, by which a drag sideways is hours. */
export function WeekView(props: ViewProps & { readonly onWidth: (pixels: number) => void }) {
  const { days, onWidth } = props;
  const track = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(800);
  useLayoutEffect(() => {
    const element = track.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => {
      setWidth(element.clientWidth);
      onWidth(element.clientWidth);
    });
    observer.observe(element);
    return () => observer.disconnect();
  }, [onWidth]);
  return (
    <div className="week-lanes" role="group" aria-label="Week">
      <div className="week-axis" aria-hidden>
        <div ref={track}>
          {HOURS.map((hour) => (
            <span key={hour} style={{ left: `${(hour / 24) * 100}%` }}>
              {String(hour).padStart(2, '0')}:00
            </span>
          ))}
        </div>
      </div>
      {days.map((day) => (
        <DayLane key={day.key} day={day} width={width} {...props} />
      ))}
    </div>
  );
}

type LaneProps = ViewProps & { readonly day: CalendarDay; readonly width: number };

function DayLane({ day, width, byDay, days, notes, colliding, zone, now, onDay }: LaneProps) {
  const { setNodeRef, isOver } = useDroppable({ id: day.key, data: { day } });
  const planned = touching(byDay, days, day);
  const items = planned.map((one) => ({
    id: one.id,
    label: one.label,
    whole: one,
    start: minutesOn(day, one.start, zone),
    end: minutesOn(day, one.end, zone),
    worksUntil: minutesOn(day, one.worksUntil, zone),
  }));
  const placed = layOutTape(items, { from: 0, to: DAY_MINUTES, width, lines: [] });
  const isToday = day.start <= now && now < day.end;
  const left = planned.length - placed.length;
  const rows = Math.max(2, ...placed.map(({ row }) => row + 1));
  return (
    <div className={['week-lane', isToday && 'today', isOver && 'target'].filter(Boolean).join(' ')}>
      <div className="week-day">
        <b>{dayName(day.start, zone)}</b>
        <DayNotes notes={notes.get(day.key) ?? []} />
        {left > 0 && (
          <button type="button" className="month-more" onClick={() => onDay(day)}>
            and {left} more
          </button>
        )}
      </div>
      <div ref={setNodeRef} className="week-track" style={{ minHeight: EDGE * 2 + rows * ROW }}>
        {HOURS.map((hour) => (
          <i key={hour} className="week-hour" style={{ left: `${(hour / 24) * 100}%` }} />
        ))}
        {isToday && (
          <i
            className="week-now"
            style={{ left: `${(minutesOn(day, now, zone) / DAY_MINUTES) * 100}%` }}
            title="now"
          />
        )}
        {placed.map((one) => (
          <WeekMark
            key={one.item.id}
            placed={one}
            width={width}
            zone={zone}
            collides={colliding.has(one.item.whole.of)}
          />
        ))}
      </div>
    </div>
  );
}

/** Those that begin on it, and those of the day before that end on it. */
function touching(
  byDay: ViewProps['byDay'],
  days: readonly CalendarDay[],
  day: CalendarDay,
): readonly Planned[] {
  const before = days[days.findIndex(({ key }) => key === day.key) - 1];
  const running = before ? (byDay.get(before.key) ?? []).filter(({ end }) => end > day.start) : [];
  return [...running, ...(byDay.get(day.key) ?? [])];
}

/** By the clock on the wall, so that a day on which clocks change is as wide as any other. */
function minutesOn(day: CalendarDay, at: number, zone: string): number {
  if (at <= day.start) return 0;
  return at >= day.end ? DAY_MINUTES : wallClock(zone, at).minutes;
}

/** Minutes of one day. */
interface DaySpan {
  readonly id: string;
  readonly label: string;
  readonly start: number;
  readonly end: number;
  readonly worksUntil: number;
  readonly whole: Planned;
}

interface MarkProps {
  readonly placed: Placed<DaySpan>;
  readonly width: number;
  readonly zone: string;
  readonly collides: boolean;
}

function WeekMark({ placed, width, zone, collides }: MarkProps) {
  const { item, row, left, label } = placed;
  const { kind, version } = item.whole;
  const { handle, isDragging } = usePlannedDrag(item.whole);
  const from = Math.min(left, label?.left ?? left);
  const to = Math.max(left + placed.width, label ? label.left + label.width : 0);
  const works = Math.max(3, ((item.worksUntil - item.start) / DAY_MINUTES) * width);
  return (
    <button
      {...handle}
      className={`${markClass(item.whole, collides, isDragging)} week-mark`}
      style={{ left: from, width: to - from, top: EDGE + row * ROW }}
      title={plannedInWords(item.whole, zone)}
      aria-label={plannedInWords(item.whole, zone)}
    >
      <i className="week-window" style={{ left: left - from, width: placed.width }} />
      {kind === 'cut' ? (
        <i className="planned-cut" style={{ left: left - from }} />
      ) : (
        <i
          className="week-work"
          style={{
            left: left - from,
            width: works,
            ...(version && { background: dyeBackground(version.dye) }),
          }}
        />
      )}
      {label && (
        <span className="planned-name" style={{ left: label.left - from, maxWidth: label.width }}>
          {item.label}
        </span>
      )}
    </button>
  );
}
