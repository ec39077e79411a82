/** What the charts of a rollout have in common: their axes, the tint of windows, the pattern of a dye. */
import {
  Chart as ChartJs,
  Filler,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
  type ChartOptions,
  type Plugin,
} from 'chart.js';
import type { DyeName } from '@vatline/core/dye/dyes';
import { chartColour } from '../parts/chart-colour.ts';
import { moment, time } from '../parts/format.ts';
import { dyeTile } from '../parts/hatch.ts';

ChartJs.register(LinearScale, LineController, LineElement, PointElement, Filler, Legend, Tooltip);
ChartJs.defaults.font.family = "'Hanken Grotesk Variable', sans-serif";
ChartJs.defaults.animation = false;

export function dyePattern(name: DyeName): CanvasPattern | string {
  const context = document.createElement('canvas').getContext('2d');
  return context?.createPattern(dyeTile(name), 'repeat') ?? '#888';
}

/** The windows behind everything that is drawn, on an axis of instants. */
export function windowTint(
  windows: readonly { readonly start: number; readonly end: number }[],
): Plugin<'line'> {
  return {
    id: 'windows',
    beforeDatasetsDraw: ({ ctx, chartArea, scales }) => {
      const axis = scales['x'];
      if (!axis) return;
      ctx.save();
      ctx.fillStyle = chartColour('--kept');
      for (const window of windows) {
        const left = Math.max(chartArea.left, axis.getPixelForValue(window.start));
        const right = Math.min(chartArea.right, axis.getPixelForValue(window.end));
        if (right > left) ctx.fillRect(left, chartArea.top, right - left, chartArea.height);
      }
      ctx.restore();
    },
  };
}

const HOUR = 3_600_000;

interface Axes {
  readonly from: number;
  readonly to: number;
  /** Of what is counted upwards; as much as there is where it is left out. */
  readonly max?: number;
  readonly zone: string;
  readonly unit: string;
}

/** Instants sideways, with marks at full hours, and a number upwards. */
export function tideOptions({ from, to, max, zone, unit }: Axes): ChartOptions<'line'> {
  const every = [1, 2, 3, 6, 12, 24].find((hours) => (to - from) / (hours * HOUR) <= 9) ?? 24;
  const first = Math.ceil(from / (every * HOUR)) * every * HOUR;
  const ticks = Array.from({ length: Math.floor((to - first) / (every * HOUR)) + 1 }, (_, i) => ({
    value: first + i * every * HOUR,
  }));
  return chartOptions({
    from,
    to,
    ...(max === undefined ? {} : { max }),
    unit,
    ticks,
    labelOf: (value) => time(value, zone),
    titleOf: (value) => moment(value, zone),
  });
}

interface ChartAxes {
  readonly from: number;
  readonly to: number;
  readonly max?: number;
  readonly unit: string;
  readonly ticks: { value: number }[];
  /** What stands at a mark. */
  readonly labelOf: (value: number) => string;
  /** What a place on the axis is called when it is pointed at. */
  readonly titleOf: (value: number) => string;
}

export function chartOptions({
  from,
  to,
  max,
  unit,
  ticks,
  labelOf,
  titleOf,
}: ChartAxes): ChartOptions<'line'> {
  return {
    responsive: true,
    maintainAspectRatio: false,
    interaction: { mode: 'nearest', axis: 'x', intersect: false },
    scales: {
      x: {
        type: 'linear',
        min: from,
        max: to,
        grid: { color: chartColour('--rule') },
        ticks: {
          color: chartColour('--quiet'),
          maxRotation: 0,
          callback: (value) => labelOf(Number(value)),
        },
        afterBuildTicks: (axis) => {
          axis.ticks = ticks;
        },
      },
      y: {
        min: 0,
        ...(max === undefined ? {} : { max }),
        grid: { color: chartColour('--rule') },
        ticks: { color: chartColour('--quiet'), precision: 0, maxTicksLimit: 5 },
      },
    },
    plugins: {
      legend: {
        position: 'bottom',
        align: 'start',
        labels: { boxWidth: 14, boxHeight: 10, color: chartColour('--ink'), padding: 10 },
      },
      tooltip: {
        callbacks: {
          title: (items) => (items[0] ? titleOf(items[0].parsed.x ?? 0) : ''),
          label: (item) => `${item.dataset.label ?? ''}: ${Math.round(item.parsed.y ?? 0)} ${unit}`,
        },
      },
    },
  };
}
