/** Hosts done over time against what was forecast at the start, and the forecast of what is left. */
import { useMemo } from 'react';
import { Chart } from 'react-chartjs-2';
import type { RolloutProgress } from '@vatline/contract/rollout-progress';
import type { Rollout } from '@vatline/contract/rollout';
import type { DyeName } from '@vatline/core/dye/dyes';
import { rolloutsApi } from '../api/rollouts.ts';
import { chartColour } from '../parts/chart-colour.ts';
import { day, moment, time } from '../parts/format.ts';
import { useEstateTime } from '../shell/clock.ts';
import { useAppSelector } from '../shell/store.ts';
import { liveSeries, paceInWords, type LiveSeries, type Point } from './live-series.ts';
import { chartOptions, dyePattern } from './tide-drawing.ts';

/** The chart moves with the clock in steps, not with every tick. */
const STEP = 5 * 60_000;

export function LiveTide({ rollout }: { readonly rollout: Rollout }) {
  const { now, zone } = useEstateTime();
  const dark = useAppSelector((state) => state.layout.dark);
  const { data } = rolloutsApi.useRolloutProgressQuery({ params: { id: rollout.id } });
  const at = rollout.endedAt ?? Math.floor(now / STEP) * STEP;
  const drawn = useMemo(() => {
    // The theme changes the colours that the drawing reads from the page.
    void dark;
    const series = data && liveSeries(data, at);
    return series && build(series, data, rollout.to.dye, zone);
  }, [data, at, rollout.to.dye, zone, dark]);
  if (!data || !drawn) return null;
  return (
    <>
      <div className="spread chart-title">
        <span>Hosts done, window by window</span>
        <span>{paceInWords(data, at)}</span>
      </div>
      <div className="chart" style={{ height: 170 }}>
        <Chart
          type="line"
          data={drawn.data}
          options={drawn.options}
          aria-label={`${data.done} of ${data.hosts} hosts done`}
        />
      </div>
    </>
  );
}

function build(series: LiveSeries, { hosts }: RolloutProgress, dye: DyeName, zone: string) {
  const { axis } = series;
  const edge = (label: string, data: readonly Point[], colour: string, dash: readonly [number, number]) => ({
    label,
    data: [...data],
    borderColor: chartColour(colour),
    borderDash: [...dash],
    borderWidth: 1.5,
    pointRadius: 0,
    fill: false as const,
    order: -1,
  });
  const lines = [
    edge('promised early, 1 in 10', series.promised.p10, '--ink', [2, 3]),
    edge('promised late, 9 in 10', series.promised.p90, '--ink', [6, 3]),
    edge('left, early', series.rest.p10, '--action', [2, 3]),
    edge('left, late', series.rest.p90, '--action', [6, 3]),
  ].filter(({ data }) => data.length > 0);
  return {
    data: {
      datasets: [
        ...lines,
        {
          label: 'done',
          data: [...series.done],
          backgroundColor: dyePattern(dye),
          borderColor: chartColour('--ink'),
          borderWidth: 2,
          pointRadius: 0,
          stepped: true as const,
          fill: 'origin',
        },
      ],
    },
    options: chartOptions({
      from: 0,
      to: axis.length,
      max: hosts,
      unit: 'hosts',
      ticks: axis.joints.map(({ value }) => ({ value })),
      labelOf: (value) => {
        const start = axis.instantAt(value);
        return `${day(start, zone)} ${time(start, zone)}`;
      },
      titleOf: (value) => moment(axis.instantAt(value), zone),
    }),
  };
}
