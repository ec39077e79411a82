/** Builds of a line: how long each step took over time, what has become slower, checkpoints, and every log. */
import { lazy, Suspense, useEffect } from 'react';
import { useLocation } from 'react-router';
import type { LineDetail } from '@vatline/contract/image';
import { useEstateTime } from '../../shell/clock.ts';
import { moment } from '../../parts/format.ts';
import { JobCard } from '../../parts/job.tsx';
import { CheckpointTable } from './checkpoint-table.tsx';
import type { LinePlan } from '../line-plan.ts';

const BuildChart = lazy(() => import('./build-chart.tsx'));

export function BuildsTab({ line, plan }: { readonly line: LineDetail; readonly plan: LinePlan }) {
  const { zone } = useEstateTime();
  const { hash } = useLocation();
  const asked = hash.slice(1);
  useEffect(() => {
    if (asked) document.getElementById(asked)?.scrollIntoView();
  }, [asked]);
  return (
    <>
      {line.runs.length > 0 && (
        <Suspense fallback={<p className="quiet">The chart is loading.</p>}>
          <BuildChart line={line} plan={plan} />
        </Suspense>
      )}
      <CheckpointTable line={line} plan={plan} />
      <h2 className="section-title">Builds, cuts and switching</h2>
      {line.jobs.length === 0 && (
        <p className="quiet">
          Nothing has been built here yet. A build writes a log line for each step; it will stand here.
        </p>
      )}
      {line.jobs.map((job, i) => (
        <div key={job.id} id={job.id}>
          <div className="quiet small">{moment(job.createdAt, zone)}</div>
          <JobCard job={job} open={asked ? job.id === asked : i === 0} />
        </div>
      ))}
    </>
  );
}
