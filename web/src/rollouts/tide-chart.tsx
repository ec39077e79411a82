/** Hosts by blend over time, and under it seats against expected sessions on the same time axis. */
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
import { useMemo } from 'react';
import { Chart } from 'react-chartjs-2';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { ForecastAnswer, RolloutRequest } from '@vatline/contract/rollout';
import { imagesApi } from '../api/images.ts';
import { useEstateTime } from '../shell/clock.ts';
import { useAppSelector } from '../shell/store.ts';
import { chartColour } from '../parts/chart-colour.ts';
import { moment, nearDay, time } from '../parts/format.ts';
import { dyeTile } from '../parts/hatch.ts';
import { hostsDone, hostsThrough, seatsOverTime, sessionsOverTime, tideSpan } from './tide-series.ts';
import type { DyeName } from '@vatline/core/dye/dyes';

ChartJs.register(LinearScale, LineController, LineElement, PointElement, Filler, Legend, Tooltip);
ChartJs.defaults.font.family = "'Hanken Grotesk Variable', sans-serif";
ChartJs.defaults.animation = false;

interface Props {
  readonly answer: ForecastAnswer;
  readonly pool: PoolDetail;
  readonly request: RolloutRequest;
}

function pattern(name: DyeName): CanvasPattern | string {
  const context = document.createElement('canvas').getContext('2d');
  return context?.createPattern(dyeTile(name), 'repeat') ?? '#888';
}

export function TideChart({ answer, pool, request }: Props) {
  const { zone, now } = useEstateTime();
  const dark = useAppSelector((state) => state.layout.dark);
  const { data: lines } = imagesApi.useLinesQuery({});
  const to = lines?.flatMap((line) => line.versions).find((version) => version.id === request.imageVersionId);
  const charts = useMemo(() => {
    const span = tideSpan(answer);
    // The theme changes the colours that the drawing reads from the page.
    void dark;
    return span && to && pool.blend ? build(answer, pool, pool.blend.dye, to.dye, span, zone) : undefined;
  }, [answer, pool, to, zone, dark]);
  if (!charts)
    return (
      <p className="quiet">No host can start in any window of this plan, so there is nothing to draw.</p>
    );
  const { p10, p90 } = answer.finish;
  return (
    <>
      <div className="spread chart-title">
        <span>Hosts by blend, median run</span>
        <span>
          {p10 !== null &&
            p90 !== null &&
            `done between ${nearDay(p10, now, zone)} ${time(p10, zone)} and ${nearDay(p90, now, zone)} ${time(p90, zone)} in 8 of 10 runs; `}
          tinted: the window
        </span>
      </div>
      <div className="chart" style={{ height: 190 }}>
        <Chart
          type="line"
          data={charts.hosts.data}
          options={charts.hosts.options}
          plugins={charts.hostPlugins}
          aria-label={`Hosts by blend: ${answer.hosts} change`}
        />
      </div>
      <div className="spread chart-title">
        <span>Seats against expected sessions</span>
      </div>
      <div className="chart" style={{ height: 140 }}>
        <Chart
          type="line"
          data={charts.seats.data}
          options={charts.seats.options}
          plugins={charts.plugins}
          aria-label="Seats against expected sessions"
        />
      </div>
    </>
  );
}

function build(
  answer: ForecastAnswer,
  pool: PoolDetail,
  fromDye: DyeName,
  toDye: DyeName,
  [from, to]: [number, number],
  zone: string,
) {
  const minutesOf = (at: number) => {
    const [hour = 0, minute = 0] = time(at, zone).split(':').map(Number);
    return hour * 60 + minute;
  };
  const before = pool.hosts - answer.hosts;
  const done = hostsDone(answer, before, from, to);
  const line = { stepped: true as const, pointRadius: 0, borderWidth: 2 };
  const windows: Plugin<'line'> = {
    id: 'windows',
    beforeDatasetsDraw: ({ ctx, chartArea, scales }) => {
      const axis = scales['x'];
      if (!axis) return;
      ctx.save();
      ctx.fillStyle = chartColour('--kept');
      for (const window of answer.nextWindows) {
        const left = Math.max(chartArea.left, axis.getPixelForValue(window.start));
        const right = Math.min(chartArea.right, axis.getPixelForValue(window.end));
        if (right > left) ctx.fillRect(left, chartArea.top, right - left, chartArea.height);
      }
      ctx.restore();
    },
  };
  const band =
    answer.runs > 1 ? [through(answer, 'p10', before, from), through(answer, 'p90', before, from)] : [];
  return {
    plugins: [windows],
    hostPlugins: [windows, heldStrip(answer.held)],
    hosts: {
      data: {
        datasets: [
          ...band,
          {
            label: 'new blend',
            data: done,
            backgroundColor: pattern(toDye),
            borderColor: chartColour('--ink'),
            fill: 'origin',
            ...line,
          },
          {
            label: 'blend now',
            data: [
              { x: from, y: pool.hosts },
              { x: to, y: pool.hosts },
            ],
            // Of one image the two would look the same.
            backgroundColor: fromDye === toDye ? chartColour('--rule') : pattern(fromDye),
            borderColor: chartColour('--rule'),
            fill: band.length,
            ...line,
            borderWidth: 1,
          },
        ],
      },
      options: { ...options(from, to, pool.hosts, zone, 'hosts'), layout: { padding: { top: STRIP + 4 } } },
    },
    seats: {
      data: {
        datasets: [
          {
            label: 'seats',
            data: seatsOverTime(answer, from, to),
            borderColor: chartColour('--action'),
            backgroundColor: chartColour('--action'),
            ...line,
          },
          {
            label: 'expected sessions',
            data: sessionsOverTime(answer.seats.expected, from, to, minutesOf),
            borderColor: chartColour('--calm'),
            backgroundColor: `${chartColour('--calm')}33`,
            fill: 'origin',
            pointRadius: 0,
            borderWidth: 2,
          },
        ],
      },
      options: options(from, to, undefined, zone, 'seats'),
    },
  };
}

/** The edge of the band: how far it is in the fastest, or the slowest, of ten runs. */
function through(answer: ForecastAnswer, which: 'p10' | 'p90', before: number, from: number) {
  return {
    label: which === 'p10' ? 'as early in 1 of 10 runs' : 'as early in 9 of 10',
    data: hostsThrough(answer, which, before, from),
    borderColor: chartColour('--ink'),
    borderDash: which === 'p10' ? [2, 3] : [6, 3],
    borderWidth: 1.5,
    pointRadius: 0,
    fill: false as const,
    order: -1,
  };
}

/** Pixels of the strip above the chart. */
const STRIP = 15;

/** What holds hosts back, as a strip above the chart on its own axis of time. */
function heldStrip(held: ForecastAnswer['held']): Plugin<'line'> {
  return {
    id: 'held',
    afterDraw: ({ ctx, chartArea, scales }) => {
      const axis = scales['x'];
      if (!axis) return;
      ctx.save();
      ctx.font = "11.5px 'Hanken Grotesk Variable', sans-serif";
      ctx.textBaseline = 'middle';
      for (const { from, to, constraint } of held) {
        const left = Math.max(chartArea.left, axis.getPixelForValue(from));
        const width = Math.min(chartArea.right, axis.getPixelForValue(to)) - left;
        if (width < 1) continue;
        const top = chartArea.top - STRIP - 2;
        const isSeats = constraint === 'seats';
        ctx.fillStyle = chartColour(isSeats ? '--attention' : '--rule');
        ctx.fillRect(left, top, width - 1, STRIP);
        ctx.fillStyle = chartColour(isSeats ? '--paper' : '--ink');
        const label = [`held back by ${constraint}`, constraint].find(
          (words) => ctx.measureText(words).width + 8 <= width,
        );
        if (label) ctx.fillText(label, left + 4, top + STRIP / 2 + 1);
      }
      ctx.restore();
    },
  };
}

const HOUR = 3_600_000;

function options(
  from: number,
  to: number,
  max: number | undefined,
  zone: string,
  unit: string,
): ChartOptions<'line'> {
  const every = [1, 2, 3, 6, 12, 24].find((hours) => (to - from) / (hours * HOUR) <= 9) ?? 24;
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
          callback: (value) => time(Number(value), zone),
        },
        afterBuildTicks: (axis) => {
          const first = Math.ceil(from / (every * HOUR)) * every * HOUR;
          axis.ticks = Array.from({ length: Math.floor((to - first) / (every * HOUR)) + 1 }, (_, i) => ({
            value: first + i * every * HOUR,
          }));
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
          title: (items) => (items[0] ? moment(items[0].parsed.x ?? 0, zone) : ''),
          label: (item) => `${item.dataset.label ?? ''}: ${Math.round(item.parsed.y ?? 0)} ${unit}`,
        },
      },
    },
  };
}
