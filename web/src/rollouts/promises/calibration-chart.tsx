/** What was promised as 1, 5 and 9 in 10 against how often it held, with what chance alone would make of it. */
import { useCallback } from 'react';
import type { Promises } from '@vatline/contract/promises';
import { chartColour } from '../../parts/chart-colour.ts';
import { LineChart, type DrawnLines } from '../../parts/line-chart.tsx';

export function CalibrationChart({ by }: Pick<Promises['calibration'], 'by'>) {
  return (
    <LineChart
      build={useCallback(() => build(by), [by])}
      height={220}
      label={`How often promises held: ${by.map((one) => `${Math.round(one.promised * 100)} % promised, ${Math.round(one.share * 100)} % held`).join('; ')}`}
    />
  );
}

function build(by: Promises['calibration']['by']): DrawnLines {
  const percents = (of: (one: (typeof by)[number]) => number) =>
    by.map((one) => Math.round(of(one) * 1000) / 10);
  const edge = { pointRadius: 0, borderWidth: 0, backgroundColor: chartColour('--kept') };
  const ink = chartColour('--quiet');
  return {
    data: {
      labels: by.map((one) => `${Math.round(one.promised * 10)} in 10`),
      datasets: [
        {
          label: 'held',
          data: percents((one) => one.share),
          borderColor: chartColour('--action'),
          backgroundColor: chartColour('--action'),
          borderWidth: 2,
          pointRadius: 5,
          clip: false,
        },
        {
          label: 'promised',
          data: percents((one) => one.promised),
          borderColor: ink,
          borderDash: [5, 4],
          borderWidth: 1.5,
          pointRadius: 0,
        },
        { label: 'by chance, 19 in 20', data: percents((one) => one.high), fill: '+1', ...edge },
        { label: '', data: percents((one) => one.low), ...edge },
      ],
    },
    options: {
      maintainAspectRatio: false,
      animation: false,
      scales: {
        x: { grid: { display: false }, ticks: { color: ink } },
        y: {
          min: 0,
          max: 100,
          grid: { color: chartColour('--rule') },
          ticks: { color: ink, callback: (value) => `${value} %` },
        },
      },
      plugins: {
        legend: { labels: { color: ink, boxWidth: 12, filter: (item) => item.text !== '' } },
      },
    },
  };
}
