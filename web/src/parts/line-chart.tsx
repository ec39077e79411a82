/** A line chart in the colours of the page, drawn anew when its theme changes. */
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
import { useAppSelector } from '../shell/store.ts';

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

export interface DrawnLines {
  readonly data: ChartData<'line', number[], string>;
  readonly options: ChartOptions<'line'>;
}

interface Props {
  /** The same one as long as it draws the same. */
  readonly build: () => DrawnLines;
  /** Pixels. */
  readonly height: number;
  /** What is read out in its place. */
  readonly label: string;
}

export function LineChart({ build, height, label }: Props) {
  const dark = useAppSelector((state) => state.layout.dark);
  const { data, options } = useMemo(() => {
    // The theme changes the colours that the drawing reads from the page.
    void dark;
    return build();
  }, [build, dark]);
  return (
    <div className="chart" style={{ height }}>
      <Line data={data} options={options} aria-label={label} />
    </div>
  );
}
