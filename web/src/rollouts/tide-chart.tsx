/** Hosts by blend over time, and under it seats against expected sessions on the same time axis. */
import type { Plugin } from 'chart.js';
import { useMemo } from 'react';
import { Chart } from 'react-chartjs-2';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { ForecastAnswer, RolloutRequest } from '@vatline/contract/rollout';
import { imagesApi } from '../api/images.ts';
import { useEstateTime } from '../shell/clock.ts';
import { useAppSelector } from '../shell/store.ts';
import { chartColour } from '../parts/chart-colour.ts';
import { nearDay, time } from '../parts/format.ts';
import { dyePattern, tideOptions, windowTint } from './tide-drawing.ts';
import { hostsDone, hostsThrough, seatsOverTime, sessionsOverTime, tideSpan } from './tide-series.ts';
import type { DyeName } from '@vatline/core/dye/dyes';

interface Props {
  readonly answer: ForecastAnswer;
  readonly pool: PoolDetail;
  readonly request: RolloutRequest;
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
  const windows = windowTint(answer.nextWindows);
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
            backgroundColor: dyePattern(toDye),
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
            backgroundColor: fromDye === toDye ? chartColour('--rule') : dyePattern(fromDye),
            borderColor: chartColour('--rule'),
            fill: band.length,
            ...line,
            borderWidth: 1,
          },
        ],
      },
      options: {
        ...tideOptions({ from, to, max: pool.hosts, zone, unit: 'hosts' }),
        layout: { padding: { top: STRIP + 4 } },
      },
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
      options: tideOptions({ from, to, zone, unit: 'seats' }),
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
