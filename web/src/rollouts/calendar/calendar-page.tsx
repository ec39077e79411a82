/** Everything planned in a month or a week: which nights are taken, by what, and what gets in each other's way. */
import '../rollouts.css';
import './calendar.css';
import {
  DndContext,
  DragOverlay,
  KeyboardSensor,
  PointerSensor,
  pointerWithin,
  rectIntersection,
  useSensor,
  useSensors,
  type CollisionDetection,
  type DragMoveEvent,
  type KeyboardCoordinateGetter,
} from '@dnd-kit/core';
import { Button, Segmented } from 'antd';
import { useMemo, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import type { Planned } from '@vatline/contract/planned';
import type { Collision } from '@vatline/core/rollout/calendar/collisions';
import { formatDate, wallClock, type LocalDate } from '@vatline/core/time/zone';
import { plannedApi } from '../../api/planned.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { Finding } from '../../parts/finding.tsx';
import { plural } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { Station } from '../../shell/station.tsx';
import { CalendarLink } from '../calendar-link.tsx';
import { useRolloutRack } from '../rollout-rack.tsx';
import {
  byDay,
  calendarViews,
  dateIn,
  daysBetween,
  daysOf,
  stepped,
  type CalendarDay,
  type CalendarView,
} from './calendar-days.ts';
import { collisionInWords } from './collisions-in-words.ts';
import { dayNotes } from './day-notes.tsx';
import { KeepMove, MovePreview, type Move } from './move.tsx';
import { collisionsAhead } from './moved-planned.ts';
import { ListView } from './list-view.tsx';
import { MonthView } from './month-view.tsx';
import { WeekView } from './week-view.tsx';
import { monthName, planInWords } from './calendar-in-words.ts';

export function CalendarPage() {
  const navigate = useNavigate();
  const items = useRolloutRack();
  const { now } = useEstateTime();
  return (
    <Station
      items={items ?? []}
      action={<Button onClick={() => void navigate('/rollouts/new')}>Plan a rollout</Button>}
    >
      {now > 0 && <Calendar />}
    </Station>
  );
}

function Calendar() {
  const { now, zone } = useEstateTime();
  const [search, setSearch] = useSearchParams();
  const view = calendarViews.find((one) => one === search.get('view')) ?? 'month';
  const today = wallClock(zone, now);
  const date = dateIn(search.get('from') ?? '') ?? today;
  const days = daysOf(view, date, zone);
  const shownDate = view === 'week' ? (days[0]?.date ?? date) : date;
  const show = (to: LocalDate, as: CalendarView = view) =>
    setSearch({ view: as, from: formatDate(to) }, { replace: true });
  const [from, to] = [days[0]?.start ?? 0, days.at(-1)?.end ?? 0];
  // Of another month nothing is said with the numbers of this one.
  const { currentData: data, error } = plannedApi.usePlannedQuery({ query: { from, to } });
  const planned = useMemo(() => data?.planned ?? [], [data]);
  const collisions = useMemo(() => collisionsAhead(planned, data?.stores ?? []), [planned, data]);
  const [dragged, setDragged] = useState<Move | undefined>();
  return (
    <section className="work calendar" aria-label="Calendar">
      {dragged && data && <MovePreview {...dragged} all={planned} stores={data.stores} />}
      <div className="spread calendar-top">
        <h1 className="answer">{data ? planInWords(planned, collisions.length, view, shownDate) : ' '}</h1>
        <div className="row">
          <Segmented<CalendarView>
            aria-label="Show as"
            value={view}
            options={[...calendarViews]}
            onChange={(as) => show(date, as)}
          />
          <Button aria-label="Earlier" onClick={() => show(stepped(view, date, -1))}>
            ‹
          </Button>
          <b className="calendar-month">{monthName(shownDate)}</b>
          <Button aria-label="Later" onClick={() => show(stepped(view, date, 1))}>
            ›
          </Button>
          <Button onClick={() => show(today)}>Today</Button>
        </div>
      </div>
      <ProblemNote problem={problemOf(error)} />
      <Collisions collisions={collisions} planned={planned} />
      {data && (
        <Days
          {...{ view, days, planned, collisions, dragged, setDragged }}
          notes={dayNotes(data, zone)}
          onDay={(day) => show(day.date, view === 'week' ? 'list' : 'week')}
        />
      )}
      {data && data.more > 0 && (
        <p className="attention">{plural(data.more, 'window')} more are planned than can be shown.</p>
      )}
      <p className="quiet small">
        Times in {zone}. Drag what is to come to another day{view === 'week' && ' or hour'} to move it;
        nothing changes before you keep it.
      </p>
      <CalendarLink />
    </section>
  );
}

/** More than these are said when somebody asks. */
const COLLISIONS_SHOWN = 2;

/** Beyond these nobody reads on; they come as others are mended. */
const MOST_COLLISIONS = 50;

function Collisions({
  collisions,
  planned,
}: {
  readonly collisions: readonly Collision[];
  readonly planned: readonly Planned[];
}) {
  const { zone } = useEstateTime();
  const [isOpen, setOpen] = useState(false);
  const most = isOpen ? MOST_COLLISIONS : COLLISIONS_SHOWN;
  const more = collisions.length - most;
  return (
    <div className="collisions">
      {collisions.slice(0, most).map((collision) => {
        const { title, detail } = collisionInWords(collision, planned, zone);
        return (
          <Finding
            key={`${collision.kind} ${collision.of.join(' ')} ${collision.at}`}
            tone="attention"
            title={title}
          >
            {detail}
          </Finding>
        );
      })}
      {more > 0 && (
        <Button type="link" size="small" disabled={isOpen} onClick={() => setOpen(true)}>
          and {plural(more, 'more collision')}
        </Button>
      )}
    </div>
  );
}

interface DaysProps {
  readonly view: CalendarView;
  readonly days: readonly CalendarDay[];
  readonly planned: readonly Planned[];
  readonly collisions: readonly Collision[];
  readonly notes: ReturnType<typeof dayNotes>;
  /** Told where the pointer is, and what it carries. */
  readonly dragged: Move | undefined;
  readonly setDragged: (move: Move | undefined) => void;
  readonly onDay: (day: CalendarDay) => void;
}

function Days({ view, days, planned, collisions, notes, dragged, setDragged, onDay }: DaysProps) {
  const { now, zone } = useEstateTime();
  const [width, setWidth] = useState(0);
  const [dropped, setDropped] = useState<Move | undefined>();
  const sensors = useSensors(
    useSensor(PointerSensor, { activationConstraint: { distance: 4 } }),
    // Enter opens what has the focus.
    useSensor(KeyboardSensor, {
      keyboardCodes: { start: ['Space'], end: ['Space'], cancel: ['Escape'] },
      coordinateGetter: byDays(view),
    }),
  );
  const moveOf = (event: DragMoveEvent): Move | undefined => {
    const to = (event.over?.data.current as { readonly day: CalendarDay } | undefined)?.day;
    const { planned: one } = (event.active.data.current ?? {}) as { readonly planned?: Planned };
    if (!one || !to) return undefined;
    const minutes = view === 'week' && width > 0 ? quarters((event.delta.x / width) * 1440) : 0;
    return { planned: one, by: { days: daysBetween(wallClock(zone, one.start), to.date), minutes } };
  };
  const onDrag = (event: DragMoveEvent) => {
    const move = moveOf(event);
    if (!isSame(dragged, move)) setDragged(move);
  };
  const colliding = new Set(collisions.flatMap(({ of }) => [...of]));
  const shown = { days, byDay: byDay(planned, days, zone), notes, colliding, zone, now, onDay };
  return (
    <DndContext
      sensors={sensors}
      collisionDetection={underPointerOrNearest}
      autoScroll={{ threshold: { x: 0, y: 0.06 } }}
      onDragMove={onDrag}
      // The day below is told one step after the way.
      onDragOver={onDrag}
      onDragEnd={(event) => {
        const move = moveOf(event);
        setDragged(undefined);
        if (move && (move.by.days !== 0 || move.by.minutes !== 0)) setDropped(move);
      }}
      onDragCancel={() => setDragged(undefined)}
    >
      {view === 'month' && <MonthView {...shown} />}
      {view === 'week' && <WeekView {...shown} onWidth={setWidth} />}
      {view === 'list' && (
        <ListView {...shown} onMove={(one) => setDropped({ planned: one, by: { days: 0, minutes: 0 } })} />
      )}
      <DragOverlay dropAnimation={null}>
        {dragged && <span className="planned carried">{dragged.planned.label}</span>}
      </DragOverlay>
      {dropped && <KeepMove move={dropped} close={() => setDropped(undefined)} />}
    </DndContext>
  );
}

/** With keys nothing is under a pointer. */
const underPointerOrNearest: CollisionDetection = (args) =>
  args.pointerCoordinates ? pointerWithin(args) : rectIntersection(args);

/** An arrow is a day; sideways in a week, where a day is a lane, a quarter of an hour. */
function byDays(view: CalendarView): KeyboardCoordinateGetter {
  return (event, { currentCoordinates: { x, y }, context: { droppableRects } }) => {
    const [day] = droppableRects.values();
    if (!day) return undefined;
    const across = view === 'week' ? day.width / QUARTERS_A_DAY : day.width;
    switch (event.code) {
      case 'ArrowLeft':
        return { x: x - across, y };
      case 'ArrowRight':
        return { x: x + across, y };
      case 'ArrowUp':
        return { x, y: y - day.height };
      case 'ArrowDown':
        return { x, y: y + day.height };
      default:
        return undefined;
    }
  };
}

const QUARTERS_A_DAY = 96;

/** Windows begin on quarters of an hour. */
function quarters(minutes: number): number {
  return Math.round(minutes / 15) * 15;
}

function isSame(a: Move | undefined, b: Move | undefined): boolean {
  return a?.planned.id === b?.planned.id && a?.by.days === b?.by.days && a?.by.minutes === b?.by.minutes;
}
