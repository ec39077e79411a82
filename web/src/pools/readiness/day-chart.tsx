/** Seats that were ready and the sessions on them, through a day that was tried out. */
import {
  CategoryScale,
  Chart as ChartJs,
  Filler,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
  type ChartData,
  type ChartOptions,
} from 'chart.js';
import { useMemo } from 'react';
import { Line } from 'react-chartjs-2';
import { COURSE_MINUTES } from '@vatline/core/pool/simulated-day';
import { formatWallTime } from '@vatline/core/time/zone';
import { chartColour } from '../../parts/chart-colour.ts';
import { useAppSelector } from '../../shell/store.ts';
import type { DayAnswer } from './day-worker.ts';

ChartJs.register(
  CategoryScale,
  Filler,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
);

export function DayChart({ answer, isSame }: { answer: DayAnswer; isSame: boolean }) {
  const dark = useAppSelector((state) => state.layout.dark);
  const { data, options } = useMemo(() => {
    // The theme changes the colours that the drawing reads from the page.
    void dark;
    return build(answer, isSame);
  }, [answer, isSame, dark]);
  const most = Math.max(...answer.chosen.course.sessions, 0);
  return (
    <div className="chart" style={{ height: 190 }}>
      <Line
        data={data}
        options={options}
        aria-label={`A day tried out: at most ${most} sessions, on at most ${Math.max(...answer.chosen.course.seats, 0)} seats`}
      />
    </div>
  );
}

function build({ chosen, recommended }: DayAnswer, isSame: boolean) {
  const line = (label: string, values: readonly number[], more: object) => ({
    label,
    data: [...values],
    pointRadius: 0,
    borderWidth: 1.5,
    fill: false as const,
    ...more,
  });
  const data: ChartData<'line', number[], string> = {
    labels: chosen.course.sessions.map((_sessions, i) => formatWallTime(i * COURSE_MINUTES)),
    datasets: [
      line('seats ready', chosen.course.seats, { borderColor: chartColour('--series-1'), stepped: true }),
      ...(isSame
        ? []
        : [
            line('seats as recommended', recommended.course.seats, {
              borderColor: chartColour('--series-4'),
              borderDash: [5, 4],
              stepped: true,
            }),
          ]),
      line('sessions', chosen.course.sessions, {
        borderColor: chartColour('--series-2'),
        backgroundColor: chartColour('--series-3'),
        fill: 'origin',
      }),
    ],
  };
  const ink = chartColour('--quiet');
  const options: ChartOptions<'line'> = {
    maintainAspectRatio: false,
    animation: false,
    interaction: { mode: 'index', intersect: false },
    scales: {
      x: { grid: { display: false }, ticks: { color: ink, maxTicksLimit: 9, maxRotation: 0 } },
      y: { beginAtZero: true, grid: { color: chartColour('--rule') }, ticks: { color: ink } },
    },
    plugins: { legend: { labels: { color: ink, boxWidth: 12 } } },
  };
  return { data, options };
}
