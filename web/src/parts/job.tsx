/** A job at work or ended: its steps as a bar, what it is doing, and what can be done about it. */
import './job.css';
import { Button } from 'antd';
import { useState } from 'react';
import type { Job } from '@vatline/contract/job';
import { jobsApi } from '../api/jobs.ts';
import { problemOf } from '../api/problem.ts';
import { useEstateTime } from '../shell/clock.ts';
import { ProblemNote } from './field.tsx';
import { LedgerTable } from './ledger.tsx';
import { minutes, plural, time } from './format.ts';
import { WaitsForClock } from './waits-for-clock.tsx';

export function JobCard({ job, open = false }: { job: Job; open?: boolean }) {
  const [showLog, setShowLog] = useState(open);
  const [cancel, cancelled] = jobsApi.useCancelJobMutation();
  const [pause, paused] = jobsApi.usePauseJobMutation();
  const [goOn, wentOn] = jobsApi.useGoOnJobMutation();
  const [undo, undone] = jobsApi.useUndoJobMutation();
  const problem = problemOf(cancelled.error ?? paused.error ?? wentOn.error ?? undone.error);
  const active = ['running', 'waiting', 'paused'].includes(job.state);
  const params = { id: job.id };
  return (
    <div className="job">
      <div className="spread">
        <span className="strong">{job.title}</span>
        <JobState job={job} />
      </div>
      <JobBar job={job} />
      <Promised job={job} />
      {job.error && <div className="trouble">{job.error}</div>}
      <ProblemNote problem={problem} />
      <div className="row">
        {active && (
          <Button size="small" onClick={() => void cancel({ params })}>
            Cancel
          </Button>
        )}
        {job.canPause && !job.pausing && (
          <Button size="small" onClick={() => void pause({ params })}>
            Pause
          </Button>
        )}
        {(job.canGoOn || job.pausing) && (
          <Button size="small" type="primary" onClick={() => void goOn({ params })}>
            Go on
          </Button>
        )}
        {job.canUndo && (
          <Button size="small" onClick={() => void undo({ params })}>
            Undo
          </Button>
        )}
        <button type="button" className="plain-button" onClick={() => setShowLog(!showLog)}>
          {showLog ? 'hide the log' : 'show the log'}
        </button>
      </div>
      {/* Below the buttons, which stay where they are when it comes. */}
      {job.waitsForEstate && <WaitsForClock what="this" />}
      {showLog && <JobLog id={job.id} />}
    </div>
  );
}

export function JobBar({ job }: { job: Job }) {
  return (
    <div
      className="job-bar"
      role="img"
      aria-label={`${job.steps.filter((step) => step.state === 'done').length} of ${plural(job.steps.length, 'step')} done`}
    >
      {job.steps.map((step, i) => (
        <span key={i} className={step.state} title={step.title}>
          {step.state === 'running' && step.progress > 0 && (
            <i style={{ width: `${step.progress * 100}%` }} />
          )}
        </span>
      ))}
    </div>
  );
}

/** What was promised, held against how it goes and went. */
function Promised({ job }: { job: Job }) {
  const { now, zone } = useEstateTime();
  if (job.promisedAt === null) return null;
  const by = time(job.promisedAt, zone);
  if (job.endedAt === null) {
    const late = (now - job.promisedAt) / 60_000;
    return late > 0 ? (
      <p className="attention">
        Was to be done by {by} (9 in 10); it is {minutes(late)} late.
      </p>
    ) : (
      <p className="quiet">To be done by {by} (9 in 10).</p>
    );
  }
  if (job.state !== 'done') return null;
  const early = (job.promisedAt - job.endedAt) / 60_000;
  return (
    <p className="quiet">
      Was to be done by {by}; it was done at {time(job.endedAt, zone)},{' '}
      {early >= 0 ? `${minutes(early)} before` : `${minutes(-early)} late`}.
    </p>
  );
}

function JobState({ job }: { job: Job }) {
  const { now } = useEstateTime();
  const running = job.steps.findIndex((step) => step.state === 'running');
  const step = job.steps[running];
  if (step) {
    const since = Math.max(0, (now - (step.startedAt ?? now)) / 60_000);
    return (
      <span className="quiet">
        {step.title}, step {running + 1} of {job.steps.length}, {minutes(since)}
        {job.pausing && ', then it pauses'}
      </span>
    );
  }
  const took = job.endedAt === null ? '' : `, ${minutes((job.endedAt - job.createdAt) / 60_000)}`;
  return <span className={job.state === 'failed' ? 'trouble' : 'quiet'}>{job.state + took}</span>;
}

function JobLog({ id }: { id: string }) {
  const { data } = jobsApi.useJobQuery({ params: { id } });
  const { zone } = useEstateTime();
  if (!data) return null;
  return (
    <>
      <pre className="log" tabIndex={0} aria-label="log">
        {data.log.map((line) => `${time(line.at, zone)}  ${line.text}`).join('\n') || 'nothing yet'}
      </pre>
      {Object.keys(data.ledger).length > 0 && <LedgerTable job={data} />}
    </>
  );
}
