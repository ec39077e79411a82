/** The numbers of the live chart: hosts done, what was forecast at the start, and what is forecast for the rest. */
import type { RolloutProgress } from '@vatline/contract/rollout-progress';
import { againstForecast, throughAt } from '@vatline/core/rollout/progress';
import type { Percentiles } from '@vatline/core/rollout/forecast/forecast';
import { LiveAxis } from './live-axis.ts';

export interface Point {
  readonly x: number;
  readonly y: number;
}

export interface LiveSeries {
  readonly axis: LiveAxis;
  readonly done: readonly Point[];
  /** Early and late edge of what was promised; empty where none was. */
  readonly promised: Readonly<Record<'p10' | 'p90', readonly Point[]>>;
  /** Of what is left, from now on. */
  readonly rest: Readonly<Record<'p10' | 'p90', readonly Point[]>>;
}

/** Nothing where neither a host is done nor anything forecast. */
export function liveSeries(progress: RolloutProgress, now: number): LiveSeries | undefined {
  const { steps, promised, rest, hosts, done, windows } = progress;
  const known = [...(promised ?? []), ...(rest?.marks ?? [])].flatMap(({ p10, p90 }) => [p10, p90]);
  const moments = [...known.flatMap((at) => at ?? []), ...steps.map(({ at }) => at)];
  const [first, last] = [Math.min(...moments), Math.max(...moments)];
  if (moments.length === 0) return undefined;
  const used = windows.filter(({ start, end }) => start <= last && end >= first);
  const axis = new LiveAxis(used, moments);
  const isBegun = steps.length > 0 && now >= first;
  const line = (
    marks: NonNullable<typeof promised>,
    of: number,
    from: Point,
    which: keyof Percentiles<number>,
  ) => {
    const points = marks.flatMap((mark, i) => {
      const at = mark[which];
      return at === null ? [] : [{ x: axis.at(at), y: from.y + throughAt(marks, of, i + 1) }];
    });
    return points.length === 0 ? [] : [from, ...points];
  };
  const start = { x: 0, y: 0 };
  const here = { x: axis.at(Math.min(now, last)), y: done };
  return {
    axis,
    done: [start, ...steps.map(({ at, done: y }) => ({ x: axis.at(at), y })), ...(isBegun ? [here] : [])],
    promised: {
      p10: line(promised ?? [], hosts, start, 'p10'),
      p90: line(promised ?? [], hosts, start, 'p90'),
    },
    rest: {
      p10: rest ? line(rest.marks, rest.hosts, here, 'p10') : [],
      p90: rest ? line(rest.marks, rest.hosts, here, 'p90') : [],
    },
  };
}

/** `26 done; by now 22 to 31 in 8 of 10 runs: as forecast`. */
export function paceInWords({ promised, hosts, done }: RolloutProgress, now: number): string | undefined {
  if (!promised || promised.length === 0) return undefined;
  const { low, high, pace } = againstForecast(promised, hosts, done, now);
  const range = low === high ? `${low}` : `${low} to ${high}`;
  return `${done} done; forecast at its start for now: ${range}${pace === 'as forecast' ? '' : `, so it is ${pace}`}`;
}
