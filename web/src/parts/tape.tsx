/** The tape: the strip of time along the bottom, the estate's clock, and the journal above it. */
import './tape.css';
import { lazy, Suspense, useLayoutEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { dye } from '@vatline/core/dye/dyes';
import type { TapeItem } from '@vatline/contract/home';
import { estateApi } from '../api/estate.ts';
import { homeApi } from '../api/home.ts';
import { problemOf } from '../api/problem.ts';
import { useEstateTime, type EstateTime } from '../shell/clock.ts';
import { tapeRangeChosen, toggled, type TapeRange } from '../shell/layout.ts';
import { useAppDispatch, useAppSelector } from '../shell/store.ts';
import { day, longDay, moment, time } from './format.ts';
import { dyeBackground } from './hatch.ts';
import { layOutTape } from './tape-layout.ts';

const Journal = lazy(async () => ({ default: (await import('./journal.tsx')).Journal }));

const HOUR = 3_600_000;
const ranges: Record<TapeRange, { hours: number; mark: number }> = {
  '24 h': { hours: 24, mark: 4 },
  '7 days': { hours: 168, mark: 24 },
  '4 wk': { hours: 672, mark: 168 },
};
/** How much of the strip lies before now. */
const BEFORE = 0.06;

export function Tape() {
  const { tapeFolded, journalOpen } = useAppSelector((state) => state.layout);
  const clock = useEstateTime();
  if (tapeFolded) return <footer className="tape folded" aria-label="Tape, folded" />;
  return (
    <footer className="tape" aria-label="Tape">
      {journalOpen && (
        <Suspense>
          <Journal />
        </Suspense>
      )}
      <ClockFace clock={clock} />
      <Strip clock={clock} />
      <TapeSide />
    </footer>
  );
}

function ClockFace({ clock }: { clock: EstateTime }) {
  const [setClock, { error, reset }] = estateApi.useSetClockMutation();
  const problem = problemOf(error);
  const speed = (rate: 0 | 1 | 60 | 600, label: string, title: string) => (
    <button
      type="button"
      aria-pressed={clock.rate === rate && !clock.jumping}
      title={title}
      onClick={() => void setClock({ body: { action: 'rate', rate } })}
    >
      {label}
    </button>
  );
  if (clock.now === 0) return <div className="tape-clock" />;
  return (
    <div className="tape-clock">
      <div className="spread" style={{ paddingRight: 12 }}>
        <span className="tape-time">{time(clock.now, clock.zone)}</span>
        {clock.jumping && <span className="quiet">on its way</span>}
      </div>
      {problem ? (
        <button type="button" className="plain-button attention" title={problem.detail} onClick={reset}>
          nothing is planned
        </button>
      ) : (
        <div className="tape-date">{longDay(clock.now, clock.zone)}</div>
      )}
      <div className="tape-speeds">
        {speed(0, '❚❚', 'Pause the clock')}
        {speed(1, '1×', 'As time passes')}
        {speed(60, '60×', 'An hour in a minute')}
        {speed(600, '600×', 'A night in half a minute')}
        <button
          type="button"
          title="Go to the next event"
          aria-label="To the next event"
          onClick={() => void setClock({ body: { action: 'next event' } })}
        >
          ›
        </button>
        <button
          type="button"
          title="Go to the end of this window"
          aria-label="To the end of this window"
          onClick={() => void setClock({ body: { action: 'end of window' } })}
        >
          »
        </button>
      </div>
    </div>
  );
}

function Strip({ clock }: { clock: EstateTime }) {
  const strip = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(900);
  const range = ranges[useAppSelector((state) => state.layout.tapeRange)];
  useLayoutEffect(() => {
    const element = strip.current;
    if (!element) return undefined;
    const observer = new ResizeObserver(() => setWidth(element.clientWidth));
    observer.observe(element);
    return () => observer.disconnect();
  }, []);
  // The strip moves in steps, so that it is asked for anew only now and then.
  const step = (range.hours * HOUR) / 168;
  const from = Math.floor((clock.now - range.hours * HOUR * BEFORE) / step) * step;
  const to = from + range.hours * HOUR;
  const { data = [] } = homeApi.useTapeQuery({ query: { from, to } }, { skip: clock.now === 0 });
  const at = (instant: number) => ((instant - from) / (to - from)) * width;
  return (
    <div className="tape-strip" ref={strip}>
      {marks(from, to, range.mark, clock.zone).map((mark) => (
        <span key={mark.at} className="tape-mark" style={{ left: at(mark.at) }}>
          {mark.label}
        </span>
      ))}
      <span className="tape-now" style={{ left: at(clock.now) }} title="now" />
      {layOutTape(data, from, to, width).map(({ item, row, left, width: bar }) => (
        <Link
          key={item.id}
          to={item.to}
          className="tape-item"
          style={{ left, top: 24 + row * 21 }}
          title={titleOf(item, clock.zone)}
        >
          <span
            className={`tape-bar ${item.kind.replace(' ', '-')}`}
            style={{
              width: item.kind === 'cut' ? undefined : bar,
              ...(item.dye ? { background: dyeBackground(item.dye) } : {}),
            }}
          />
          {item.label}
        </Link>
      ))}
    </div>
  );
}

function titleOf(item: TapeItem, zone: string): string {
  const what = item.dye ? `${item.label} (${dye(item.dye).letters})` : item.label;
  return item.end > item.start
    ? `${what}, ${moment(item.start, zone)} to ${moment(item.end, zone)}`
    : `${what}, ${moment(item.start, zone)}`;
}

/** Marks at full local hours or days. */
function marks(from: number, to: number, everyHours: number, zone: string): { at: number; label: string }[] {
  const list: { at: number; label: string }[] = [];
  for (let at = Math.ceil(from / HOUR) * HOUR; at < to; at += HOUR) {
    const hour = Number(time(at, zone).slice(0, 2));
    if (everyHours < 24 && hour % everyHours === 0)
      list.push({ at, label: hour === 0 ? day(at, zone) : time(at, zone) });
    else if (everyHours >= 24 && hour === 0 && (everyHours === 24 || day(at, zone).startsWith('Mon')))
      list.push({ at, label: day(at, zone) });
  }
  return list;
}

function TapeSide() {
  const dispatch = useAppDispatch();
  const { tapeRange, journalOpen } = useAppSelector((state) => state.layout);
  return (
    <div className="tape-side">
      <div className="row">
        {(Object.keys(ranges) as TapeRange[]).map((range) => (
          <button
            key={range}
            type="button"
            className="plain-button"
            aria-pressed={tapeRange === range}
            onClick={() => dispatch(tapeRangeChosen(range))}
          >
            {range}
          </button>
        ))}
      </div>
      <button
        type="button"
        className="plain-button"
        aria-expanded={journalOpen}
        onClick={() => dispatch(toggled('journalOpen'))}
      >
        Journal {journalOpen ? '↓' : '↑'}
      </button>
    </div>
  );
}
