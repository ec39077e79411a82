/** First desktops on their way: what is being made, until when, and seeing them as somebody who may use them. */
import { Link } from 'react-router';
import type { FirstProgress } from '@vatline/contract/first-desktops';
import { firstDesktopsApi } from '../api/first-desktops.ts';
import { problemOf } from '../api/problem.ts';
import { JobCard } from '../parts/job.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { nearDay, plural, time } from '../parts/format.ts';
import { useEstateTime } from '../shell/clock.ts';

export function FirstOnTheWay({ id }: { id: string }) {
  const { data, error } = firstDesktopsApi.useFirstProgressQuery({ params: { id } });
  const { now, zone } = useEstateTime();
  if (error) return <ProblemNote problem={problemOf(error)} />;
  if (!data) return null;
  const { pool, person, group, isAssigned, lineId, line } = data;
  return (
    <div className="bench-columns side-by-side first-desktops">
      <section className="work" aria-label="First desktops on their way">
        <h1 className="answer">{headline(data, now, zone)}</h1>
        <p className="under-answer">
          Leave this page whenever you like: it goes on by itself, also when the server is started anew.
        </p>
        <JobCard job={data.job} open />
        {pool?.job && <JobCard job={pool.job} open />}
      </section>
      <aside className="evidence" aria-label="What there is so far">
        <h2>What there is so far</h2>
        <dl className="facts narrow">
          <dt>Image line</dt>
          <dd>
            <Link to={`/images/${lineId}`}>{line}</Link>
          </dd>
          <dt>Pool</dt>
          <dd>
            {pool ? (
              <>
                <Link to={`/pools/${pool.id}`}>{pool.name}</Link>, {pool.inService} of{' '}
                {plural(data.hosts, 'host')} in service
              </>
            ) : (
              <span className="quiet">not yet</span>
            )}
          </dd>
          <dt>May use it</dt>
          <dd>{isAssigned ? group : <span className="quiet">nobody yet</span>}</dd>
        </dl>
        {['done', 'failed', 'cancelled'].includes(data.job.state) && (
          <p>
            <Link to="/first-desktops?new">Make other ones</Link>
          </p>
        )}
        {isAssigned && person && (
          <p>
            <Link className="see-as" to={`/access?user=${encodeURIComponent(person.account)}`}>
              See as {person.name}
            </Link>{' '}
            of {group}: what is on their launch page, and why.
          </p>
        )}
      </aside>
    </div>
  );
}

function headline({ job, pool, hosts, promisedAt }: FirstProgress, now: number, zone: string): string {
  if (pool && pool.inService >= hosts && job.state === 'done')
    return `${plural(hosts, 'desktop')} ${hosts === 1 ? 'is' : 'are'} ready for people.`;
  if (job.state === 'failed') return 'First desktops have stopped: see what is in the way, and go on.';
  if (job.state === 'cancelled') return 'First desktops were cancelled.';
  if (pool?.job?.state === 'failed') return 'Not all desktops could be made: see why, and go on.';
  const when = `${nearDay(promisedAt, now, zone)} ${time(promisedAt, zone)}`;
  return pool
    ? `${pool.inService} of ${plural(hosts, 'desktop')} ready; all by ${when}, 9 in 10.`
    : `The image is being made; desktops are ready by ${when}, 9 in 10.`;
}
