/** Reads a second by hour of the day, by pool, against what each share serves with room to spare. */
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart as ChartJs,
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
import { Chart } from 'react-chartjs-2';
import { SPARE, type TierAdvice } from '@vatline/core/package/share-sizing';
import { useAppSelector } from '../../shell/store.ts';
import { chartColour } from '../../parts/chart-colour.ts';
import { count } from '../../parts/format.ts';

ChartJs.register(
  BarController,
  BarElement,
  CategoryScale,
  Legend,
  LinearScale,
  LineController,
  LineElement,
  PointElement,
  Tooltip,
);

interface Props {
  readonly advice: TierAdvice;
  readonly limits: readonly { readonly name: string; readonly operationsLimit: number }[];
  /** Reads a second of those who work, at all hours. */
  readonly steady: number;
}

const SERIES = 7;
const hours = Array.from({ length: 24 }, (_none, hour) => String(hour).padStart(2, '0'));

export function ShareChart({ advice, limits, steady }: Props) {
  const dark = useAppSelector((state) => state.layout.dark);
  const { data, options } = useMemo(() => {
    // The theme changes the colours that the drawing reads from the page.
    void dark;
    return build(advice, limits, steady);
  }, [advice, limits, steady, dark]);
  const peak = advice.operations[advice.peakHour] ?? 0;
  return (
    <div className="chart" style={{ height: 210 }}>
      <Chart
        type="bar"
        data={data}
        options={options}
        aria-label={`Reads a second by hour, at most ${count(Math.round(peak))} at ${hours[advice.peakHour] ?? ''}:00`}
      />
    </div>
  );
}

function build({ byPool, operations }: TierAdvice, limits: Props['limits'], steady: number) {
  const top = Math.max(...operations);
  // A limit far above everything would flatten the bars; it is told in the table.
  const shown = limits.filter((limit) => limit.operationsLimit * (1 - SPARE) <= top * 4);
  const data: ChartData<'bar' | 'line', number[], string> = {
    labels: hours,
    datasets: [
      {
        type: 'bar' as const,
        label: 'steady',
        data: hours.map(() => steady),
        backgroundColor: chartColour(`--series-${SERIES}`),
        stack: 'reads',
      },
      ...byPool
        .filter((pool) => pool.operations.some((each) => each > 0))
        .map((pool, i) => ({
          type: 'bar' as const,
          label: pool.name,
          data: [...pool.operations],
          backgroundColor: chartColour(`--series-${(i % (SERIES - 1)) + 1}`),
          stack: 'reads',
        })),
      ...shown.map((limit) => ({
        type: 'line' as const,
        label: `${limit.name}, ${SPARE * 100} % kept free`,
        data: hours.map(() => limit.operationsLimit * (1 - SPARE)),
        borderColor: chartColour('--trouble'),
        borderDash: [5, 4],
        borderWidth: 1.5,
        pointRadius: 0,
      })),
    ],
  };
  const ink = chartColour('--quiet');
  const options: ChartOptions<'bar' | 'line'> = {
    maintainAspectRatio: false,
    animation: false,
    scales: {
      x: { stacked: true, grid: { display: false }, ticks: { color: ink } },
      y: {
        stacked: true,
        beginAtZero: true,
        grid: { color: chartColour('--rule') },
        ticks: { color: ink },
        title: { display: true, text: 'reads a second', color: ink },
      },
    },
    plugins: { legend: { labels: { color: ink, boxWidth: 12 } } },
  };
  return { data, options };
}
