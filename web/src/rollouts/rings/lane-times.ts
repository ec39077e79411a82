/** Where things lie on the lanes: one axis of time for all rings. */
import { DAY, HOUR, type Instant } from '@vatline/core/time/instant';

/** A ring as it is drawn. */
export interface Lane {
  readonly name: string;
  readonly pool: string;
  /** What stands under the name. */
  readonly note: string;
  /** When its hosts may be worked on. */
  readonly windows: readonly Span[];
  /** When it begins, or began; null for one that never does, or has nothing to do. */
  readonly from: Instant | null;
  /** When it is done: in the middle, and in 9 of 10 runs; the same for what has been. */
  readonly to: Instant | null;
  readonly latest: Instant | null;
  /** Share that is done, 0 to 1. */
  readonly done: number;
  /** How the gate behind it stands; nothing behind the last one. */
  readonly gate: LaneGate | null;
}

export interface Span {
  readonly start: Instant;
  readonly end: Instant;
}

export interface LaneGate {
  readonly does: 'open' | 'wait' | 'hold' | 'planned';
  /** What it asks for: `2 d of soak, an approval`. */
  readonly asks: string;
  /** When it opens or opened, where that is known. */
  readonly at: Instant | null;
}

/** From shortly before the first lane to shortly after the last; at least a day and a half. */
export function laneSpan(lanes: readonly Lane[], now: Instant): Span {
  const times = lanes.flatMap(({ from, to, latest, gate }) => [from, to, latest, gate?.at ?? null]);
  const known = [now, ...times].filter((at): at is Instant => at !== null);
  const [start, end] = [Math.min(...known), Math.max(...known)];
  const room = Math.max(1.5 * DAY, end - start);
  return { start: start - room * 0.02, end: start + room * 1.04 };
}

/** Percent from the left, between 0 and 100. */
export function place(at: Instant, { start, end }: Span): number {
  return Math.min(100, Math.max(0, ((at - start) / (end - start)) * 100));
}

/** The part of a stretch that is on the axis, in percent; undefined where none is. */
export function stretch(from: Instant, to: Instant, span: Span): { left: string; width: string } | undefined {
  const [left, right] = [place(from, span), place(to, span)];
  return right > left ? { left: `${left}%`, width: `${right - left}%` } : undefined;
}

/** Instants for labels: midnights of a zone, or every few hours on a short axis; at most ten. */
export function laneTicks({ start, end }: Span, minutesOfDay: (at: Instant) => number): Instant[] {
  const step = [6 * HOUR, 12 * HOUR, DAY, 2 * DAY, 7 * DAY, 14 * DAY, 28 * DAY].find(
    (width) => (end - start) / width <= 10,
  );
  if (step === undefined) return [];
  const ticks: Instant[] = [];
  const first = start - minutesOfDay(start) * 60_000;
  for (let at = first; at < end; at += step) {
    // Clocks may have changed since the first: back to the full step.
    const off = minutesOfDay(at) % Math.min(1440, step / 60_000);
    const width = Math.min(1440, step / 60_000);
    const right = at - (off > width / 2 ? off - width : off) * 60_000;
    if (right >= start) ticks.push(right);
  }
  return ticks;
}
