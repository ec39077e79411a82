/** The numbers of the tide chart: hosts done over time, and seats against expected sessions. */
import type { ForecastAnswer } from '@vatline/contract/rollout';

export interface TidePoint {
  readonly x: number;
  readonly y: number;
}

const HOUR = 3_600_000;
/** What is shown besides: at most so much on each side, and half of the work where that is short. */
const EDGE = 1.5 * HOUR;
const LEAST_EDGE = HOUR / 4;
/** Of a window in which the work is done early, no more than so many times as long is shown. */
const WINDOW_SHOWN = 4;
const STEP = HOUR / 4;

/** From shortly before the first window until shortly after the last host is done, in 9 of 10 runs. */
export function tideSpan(answer: ForecastAnswer): [number, number] | undefined {
  const { spans, windows } = answer;
  const [first] = windows;
  if (!first || spans.length === 0) return undefined;
  const latest = answer.progress.at(-1)?.p90 ?? first.end;
  const done = spans.reduce((last, span) => Math.max(last, span.finish), latest);
  const end = Math.max(done, Math.min(first.end, first.start + WINDOW_SHOWN * (done - first.start)));
  const edge = Math.min(EDGE, Math.max(LEAST_EDGE, (end - first.start) / 2));
  return [first.start - edge, end + edge];
}

/** Hosts on the new version: a step up at every finish of the median run. `before` run it already. */
export function hostsDone(answer: ForecastAnswer, before: number, from: number, to: number): TidePoint[] {
  const finishes = answer.spans.map((span) => span.finish).sort((a, b) => a - b);
  const points: TidePoint[] = [{ x: from, y: before }];
  finishes.forEach((x, i) => points.push({ x, y: before + i + 1 }));
  points.push({ x: to, y: before + finishes.length });
  return points;
}

/** How many hosts are on the new version at least, in so many of ten runs: a point at each part that is through. */
export function hostsThrough(
  { progress, hosts }: Pick<ForecastAnswer, 'progress' | 'hosts'>,
  which: 'p10' | 'p90',
  before: number,
  from: number,
): TidePoint[] {
  const points = progress.flatMap((mark, i) => {
    const x = mark[which];
    return x === null ? [] : [{ x, y: before + Math.ceil((hosts * (i + 1)) / progress.length) }];
  });
  return [{ x: from, y: before }, ...points];
}

/** Seats in service in the median run: hosts that are taken out of service give none. */
export function seatsOverTime(answer: ForecastAnswer, from: number, to: number): TidePoint[] {
  const { perHost, poolHosts } = answer.seats;
  const out = answer.spans.filter((span) => !span.inService);
  const events = out.flatMap((span) => [
    { x: span.start, by: -1 },
    { x: span.finish, by: 1 },
  ]);
  events.sort((a, b) => a.x - b.x || b.by - a.by);
  let hosts = poolHosts;
  const points: TidePoint[] = [{ x: from, y: hosts * perHost }];
  for (const { x, by } of events) points.push({ x, y: (hosts += by) * perHost });
  points.push({ x: to, y: hosts * perHost });
  return points;
}

/** Expected sessions every quarter of an hour; straight lines between the full hours. */
export function sessionsOverTime(
  expected: readonly number[],
  from: number,
  to: number,
  localMinutes: (at: number) => number,
): TidePoint[] {
  const points: TidePoint[] = [];
  for (let x = from; x <= to; x += STEP) {
    const minutes = localMinutes(x);
    const hour = Math.floor(minutes / 60) % 24;
    const low = expected[hour] ?? 0;
    points.push({ x, y: low + (((expected[(hour + 1) % 24] ?? 0) - low) * (minutes % 60)) / 60 });
  }
  return points;
}
