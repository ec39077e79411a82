/** Minutes of each step in past builds, as stacked bars; steps that became slower are named. */
import {
  BarController,
  BarElement,
  CategoryScale,
  Chart as ChartJs,
  Legend,
  LinearScale,
  Tooltip,
} from 'chart.js';
import { useMemo } from 'react';
import { Chart } from 'react-chartjs-2';
import type { LineDetail } from '@vatline/contract/image';
import { buildRuns, slowdowns, stepSeries } from '@vatline/core/image/build-history';
import { stepIdentity } from '@vatline/core/image/checkpoint-plan';
import { describeStep } from '@vatline/core/image/describe-step';
import { useEstateTime } from '../../shell/clock.ts';
import { useAppSelector } from '../../shell/store.ts';
import { day, minutes } from '../../parts/format.ts';
import type { LinePlan } from '../line-plan.ts';

ChartJs.register(BarController, BarElement, CategoryScale, LinearScale, Legend, Tooltip);
ChartJs.defaults.font.family = "'Hanken Grotesk Variable', sans-serif";
ChartJs.defaults.animation = false;

/** Builds shown, and steps that have a colour of their own; the shorter ones stand together. */
const BUILDS = 12;
const STEPS = 6;

function colour(token: string): string {
  return getComputedStyle(document.documentElement).getPropertyValue(token).trim();
}

export default function BuildChart({ line, plan }: { readonly line: LineDetail; readonly plan: LinePlan }) {
  const { zone } = useEstateTime();
  const dark = useAppSelector((state) => state.layout.dark);
  const builds = useMemo(() => buildRuns(line.runs).slice(-BUILDS), [line.runs]);
  const names = useMemo(() => namesOf(line, plan), [line, plan]);
  const slower = slowdowns(line.runs);
  const data = useMemo(() => {
    // The theme changes the colours that the drawing reads from the page.
    void dark;
    return {
      labels: builds.map((build) => day(build.at, zone)),
      datasets: stepSeries(builds, (identity) => names.get(identity) ?? 'earlier recipes', STEPS).map(
        ({ name, minutes: lasted }, i) => ({
          label: name,
          data: lasted.map((n) => Math.round(n * 10) / 10),
          backgroundColor: colour(`--series-${i + 1}`),
        }),
      ),
    };
  }, [builds, names, zone, dark]);
  const last = builds.at(-1);
  return (
    <section aria-label="Durations by step">
      <h2 className="figure">
        {slower.length === 0
          ? `The last build ran ${minutes(last?.minutes ?? 0)} of steps; none took longer than usual.`
          : `${slower.length === 1 ? '1 step has' : `${slower.length} steps have`} become slower.`}
      </h2>
      {slower.map(({ identity, latest, usual }) => (
        <p key={identity} className="attention">
          {names.get(identity) ?? 'A step of an earlier recipe'} took {minutes(latest)}, usually{' '}
          {minutes(usual)}.
        </p>
      ))}
      <div style={{ height: 210 }}>
        <Chart
          type="bar"
          data={data}
          aria-label="Minutes by step of past builds"
          role="img"
          options={{
            maintainAspectRatio: false,
            color: colour('--ink'),
            datasets: { bar: { maxBarThickness: 46 } },
            plugins: {
              legend: { position: 'right', reverse: true, labels: { boxWidth: 14, color: colour('--ink') } },
              tooltip: {
                callbacks: { label: (item) => `${item.dataset.label}: ${item.formattedValue} min` },
              },
            },
            scales: {
              x: { stacked: true, grid: { display: false }, ticks: { color: colour('--quiet') } },
              y: {
                stacked: true,
                title: { display: true, text: 'minutes', color: colour('--quiet') },
                grid: { color: colour('--rule') },
                ticks: { color: colour('--quiet') },
              },
            },
          }}
        />
      </div>
    </section>
  );
}

/** Names of steps by identity: of the recipe as it is, and of those that fragments ever held. */
function namesOf(line: LineDetail, plan: LinePlan): Map<string, string> {
  const steps = [...Object.values(line.fragments).flat(), ...line.lastCutRecipe, ...plan.expanded];
  return new Map(steps.map((step) => [stepIdentity(step), describeStep(step).title]));
}
