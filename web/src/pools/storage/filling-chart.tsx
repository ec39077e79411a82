/** Bytes of a datastore day by day until the next rebuild, with the band of 10 to 90 %, and the chance that it is full. */
import { useCallback } from 'react';
import type { FillingDay } from '@vatline/core/pool/storage-risk';
import { chartColour } from '../../parts/chart-colour.ts';
import { percent, size } from '../../parts/format.ts';
import { LineChart, type DrawnLines } from '../../parts/line-chart.tsx';

interface Props {
  readonly days: readonly FillingDay[];
  readonly capacityBytes: number;
  readonly name: string;
  /** What day 0 is, such as `days from now`. */
  readonly daysFrom: string;
}

/** Is named in the tooltip only; the legend has the band. */
const LOWER_EDGE = '1 of 10 takes less';

export function FillingChart({ days, capacityBytes, name, daysFrom }: Props) {
  const drawn = useCallback(() => build(days, capacityBytes, daysFrom), [days, capacityBytes, daysFrom]);
  const last = days.at(-1);
  if (!last) return null;
  return (
    <LineChart
      build={drawn}
      height={170}
      label={`${name} after ${last.day} days: ${size(last.p50Bytes)} of ${size(capacityBytes)}, full with a chance of ${percent(last.chance)}`}
    />
  );
}

function build(days: readonly FillingDay[], capacityBytes: number, daysFrom: string): DrawnLines {
  const line = (label: string, value: (day: FillingDay) => number, more: object) => ({
    label,
    data: days.map(value),
    pointRadius: 0,
    borderWidth: 1.5,
    ...more,
  });
  const clear = 'transparent';
  const band = chartColour('--series-3');
  // Far above everything, the capacity would flatten the growth; its place is told in the table.
  const isNear = capacityBytes < 3 * (days.at(-1)?.p90Bytes ?? 0);
  const data: DrawnLines['data'] = {
    labels: days.map((row) => String(row.day)),
    datasets: [
      // The first of them is drawn over the others.
      line('as likely more as less', (row) => row.p50Bytes, {
        borderColor: chartColour('--series-1'),
        fill: false,
      }),
      ...(isNear
        ? [
            line('capacity', () => capacityBytes, {
              borderColor: chartColour('--trouble'),
              borderDash: [5, 4],
              fill: false,
            }),
          ]
        : []),
      line('chance of being full', (row) => row.chance, {
        borderColor: chartColour('--attention'),
        borderDash: [2, 3],
        yAxisID: 'chance',
        fill: false,
      }),
      line('from 1 of 10 to 9 of 10', (row) => row.p90Bytes, {
        borderColor: clear,
        backgroundColor: band,
        fill: '+1',
      }),
      line(LOWER_EDGE, (row) => row.p10Bytes, { borderColor: clear, fill: false }),
    ],
  };
  const ink = chartColour('--quiet');
  const options: DrawnLines['options'] = {
    maintainAspectRatio: false,
    animation: false,
    scales: {
      x: {
        grid: { display: false },
        ticks: { color: ink, maxTicksLimit: 11, maxRotation: 0 },
        title: { display: true, text: daysFrom, color: ink },
      },
      y: {
        grid: { color: chartColour('--rule') },
        ticks: { color: ink, callback: (value) => size(Number(value)) },
      },
      chance: {
        position: 'right',
        min: 0,
        max: 1,
        grid: { display: false },
        ticks: { color: ink, maxTicksLimit: 3, callback: (value) => percent(Number(value)) },
      },
    },
    plugins: {
      legend: { labels: { color: ink, boxWidth: 12, filter: ({ text }) => text !== LOWER_EDGE } },
      tooltip: {
        callbacks: {
          label: ({ dataset, parsed }) =>
            `${dataset.label ?? ''}: ${dataset.yAxisID === 'chance' ? percent(parsed.y ?? 0) : size(parsed.y ?? 0)}`,
        },
      },
    },
  };
  return { data, options };
}
