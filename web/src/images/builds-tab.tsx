import type { LineDetail } from '@vatline/contract/image';
import { useEstateTime } from '../shell/clock.ts';
import { moment } from '../parts/format.ts';
import { JobCard } from '../parts/job.tsx';

/** Builds and cuts of this line, newest first, each with its log. */
export function BuildsTab({ line }: { line: LineDetail }) {
  const { zone } = useEstateTime();
  if (line.jobs.length === 0)
    return (
      <p className="quiet">
        Nothing has been built here yet. A build writes a log line for each step; it will stand here.
      </p>
    );
  return (
    <>
      {line.jobs.map((job, i) => (
        <div key={job.id}>
          <div className="quiet small">{moment(job.createdAt, zone)}</div>
          <JobCard job={job} open={i === 0} />
        </div>
      ))}
    </>
  );
}
