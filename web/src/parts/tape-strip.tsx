/** The strip of time: what lies on it, and now. */
import { useLayoutEffect, useRef, useState } from 'react';
import { Link } from 'react-router';
import { dye } from '@vatline/core/dye/dyes';
import type { TapeItem } from '@vatline/contract/home';
import { homeApi } from '../api/home.ts';
import type { EstateTime } from '../shell/clock.ts';
import type { TapeRange } from '../shell/layout.ts';
import { useAppSelector } from '../shell/store.ts';
import { day, moment, time } from './format.ts';
import { dyeBackground } from './hatch.ts';
import { layOutTape, type Placed } from './tape-layout.ts';

const HOUR = 3_600_000;
export const tapeRanges: Record<TapeRange, { hours: number; mark: number }> = {
  '24 h': { hours: 24, mark: 4 },
  '7 days': { hours: 168, mark: 24 },
  '4 wk': { hours: 672, mark: 168 },
};
/** How much of the strip lies before now. */
const BEFORE = 0.06;

export function TapeStrip({ clock }: { clock: EstateTime }) {
  const strip = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(900);
  const range = tapeRanges[useAppSelector((state) => state.layout.tapeRange)];
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
  const days = marks(from, to, range.mark, clock.zone);
  const lines = days.filter((mark) => mark.isDay).map((mark) => mark.at);
  return (
    <div className="tape-strip" ref={strip}>
      {days.map((mark) => (
        <span key={mark.at} className="tape-mark" style={{ left: at(mark.at) }}>
          {mark.label}
        </span>
      ))}
      <span className="tape-now" style={{ left: at(clock.now) }} title="now" />
      {layOutTape(data, { from, to, width, lines }).map((placed) => (
        <Item key={placed.item.id} placed={placed} zone={clock.zone} />
      ))}
    </div>
  );
}

const FIRST_ROW = 24;
const ROW = 21;

/** A bar with its words behind or before it. */
function Item({ placed, zone }: { readonly placed: Placed<TapeItem>; readonly zone: string }) {
  const { item, row, left, width, label } = placed;
  const from = Math.min(left, label?.left ?? left);
  const to = Math.max(left + width, label ? label.left + label.width : 0);
  return (
    <Link
      to={item.to}
      className="tape-item"
      style={{ left: from, width: to - from, top: FIRST_ROW + row * ROW }}
      aria-label={item.label}
      title={titleOf(item, zone)}
    >
      <span
        className={`tape-bar ${item.kind.replace(' ', '-')}`}
        style={{
          left: left - from,
          width: item.kind === 'cut' ? undefined : width,
          ...(item.dye ? { background: dyeBackground(item.dye) } : {}),
        }}
      />
      {label && (
        <span className="tape-label" style={{ left: label.left - from, maxWidth: label.width }}>
          {item.label}
        </span>
      )}
    </Link>
  );
}

function titleOf(item: TapeItem, zone: string): string {
  const what = item.dye ? `${item.label} (${dye(item.dye).letters})` : item.label;
  return item.end > item.start
    ? `${what}, ${moment(item.start, zone)} to ${moment(item.end, zone)}`
    : `${what}, ${moment(item.start, zone)}`;
}

interface Mark {
  readonly at: number;
  readonly isDay: boolean;
  readonly label: string;
}

/** Marks at full local hours or days. */
function marks(from: number, to: number, everyHours: number, zone: string): Mark[] {
  const list: Mark[] = [];
  for (let at = Math.ceil(from / HOUR) * HOUR; at < to; at += HOUR) {
    const hour = Number(time(at, zone).slice(0, 2));
    if (everyHours < 24 && hour % everyHours === 0)
      list.push({ at, isDay: hour === 0, label: hour === 0 ? day(at, zone) : time(at, zone) });
    else if (everyHours >= 24 && hour === 0 && (everyHours === 24 || day(at, zone).startsWith('Mon')))
      list.push({ at, isDay: true, label: day(at, zone) });
  }
  return list;
}
