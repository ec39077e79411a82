/** Seats that were ready and the sessions on them, through a day that was tried out. */
import { useCallback } from 'react';
import { COURSE_MINUTES } from '@vatline/core/pool/simulated-day';
import { formatWallTime } from '@vatline/core/time/zone';
import { chartColour } from '../../parts/chart-colour.ts';
import { LineChart, type DrawnLines } from '../../parts/line-chart.tsx';
import type { DayAnswer } from './day-worker.ts';

export function DayChart({ answer, isSame }: { answer: DayAnswer; isSame: boolean }) {
  const { sessions, seats } = answer.chosen.course;
  return (
    <LineChart
      build={useCallback(() => build(answer, isSame), [answer, isSame])}
      height={190}
      label={`A day tried out: at most ${Math.max(...sessions, 0)} sessions, on at most ${Math.max(...seats, 0)} seats`}
    />
  );
}

function build({ chosen, recommended }: DayAnswer, isSame: boolean): DrawnLines {
  const line = (label: string, values: readonly number[], more: object) => ({
    label,
    data: [...values],
    pointRadius: 0,
    borderWidth: 1.5,
    fill: false as const,
    ...more,
  });
  const data: DrawnLines['data'] = {
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
  const options: DrawnLines['options'] = {
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
