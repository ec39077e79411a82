/** When a line is cut by itself, and what follows: the next cuts and rollouts first, the rules below. */
import { Button } from 'antd';
import { Link } from 'react-router';
import type { CutScheduleRequest, KeptSchedule } from '@vatline/contract/cut-schedule';
import type { LineDetail } from '@vatline/contract/image';
import { planCuts, type PlannedCut } from '@vatline/core/image/cut-plan';
import { workAfterCut } from '@vatline/core/rollout/usual-work';
import { imagesApi } from '../../api/images.ts';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { useAppDispatch, useAppSelector } from '../../shell/store.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { moment, relative, time } from '../../parts/format.ts';
import { KeptMeanwhile } from '../../parts/kept-meanwhile.tsx';
import { ScheduleFields, schedulePaths } from './schedule-fields.tsx';
import { scheduleChanged, scheduleDropped, scheduleDraftOf } from './schedule-drafts.ts';

const weekly = (zone: string): CutScheduleRequest => ({
  rule: 'FREQ=WEEKLY;BYDAY=SA',
  at: '02:00',
  zone,
  takeUpdates: true,
  onlyIfChanged: true,
  leaveRunning: false,
  waitHours: 12,
  rollouts: [],
});

export function ScheduleTab({ line }: { line: LineDetail }) {
  const dispatch = useAppDispatch();
  const { zone } = useEstateTime();
  const draft = useAppSelector((state) => scheduleDraftOf(state, line.id));
  const { data: kept, error: unread } = imagesApi.useScheduleQuery({ params: { id: line.id } });
  const [keep, { error, isLoading, reset }] = imagesApi.useKeepScheduleMutation();
  const [drop] = imagesApi.useDropScheduleMutation();
  if (!kept) return <ProblemNote problem={problemOf(unread)} />;
  const params = { id: line.id };
  const shown = draft?.schedule ?? kept.schedule;
  const basedOn = draft?.basedOn ?? kept.revision;
  const change = (schedule: CutScheduleRequest) =>
    dispatch(scheduleChanged({ lineId: line.id, schedule, basedOn }));
  const problem = problemOf(error);
  const save = async () => {
    if (!draft) return;
    const result = await keep({ params, body: { ...draft.schedule, basedOn } });
    if (!('error' in result)) dispatch(scheduleDropped(line.id));
  };
  const takeKept = () => {
    dispatch(scheduleDropped(line.id));
    reset();
  };
  return (
    <div className="schedule">
      {shown ? <WhatComes schedule={shown} isDraft={draft !== undefined} /> : <ByHandOnly />}
      {kept.lastAt !== null && (
        <p className="quiet">
          The cut of {moment(kept.lastAt, zone)} {kept.lastOutcome}.
        </p>
      )}
      {shown ? (
        <ScheduleFields
          line={line}
          schedule={shown}
          onChange={change}
          fault={(path) => problem?.faults.find((fault) => fault.path === path)?.message}
        />
      ) : (
        <Button type="primary" onClick={() => change(weekly(zone))}>
          Cut it by a schedule
        </Button>
      )}
      <ProblemNote problem={problem} shown={shown ? schedulePaths(shown) : []} />
      <KeptMeanwhile problem={problem} basedOn={basedOn} kept={kept.revision} onTake={takeKept} />
      {draft && (
        <div className="row">
          <Button type="primary" loading={isLoading} onClick={() => void save()}>
            Keep the schedule
          </Button>
          <Button onClick={takeKept}>Drop the changes</Button>
        </div>
      )}
      {!draft && kept.schedule && (
        <div className="row">
          <Button onClick={() => void drop({ params })}>Cut by hand only</Button>
        </div>
      )}
      <Followed kept={kept} />
    </div>
  );
}

function ByHandOnly() {
  return (
    <>
      <h2 className="figure">It is cut by hand only.</h2>
      <p className="quiet">
        By a schedule it takes the newest updates, builds from its waterline, is cut, and goes out to pools
        one after the other; what goes wrong on the first stops the rest.
      </p>
    </>
  );
}

const CUTS = 3;

/** The next cuts, each with the windows in which its rollouts go out. */
function WhatComes({ schedule, isDraft }: { schedule: CutScheduleRequest; isDraft: boolean }) {
  const { now, zone } = useEstateTime();
  const { data: pools = [] } = poolsApi.usePoolsQuery({});
  const rollouts = schedule.rollouts.map((row) => {
    const pool = pools.find((own) => own.id === row.poolId);
    return { ...row, work: pool && workAfterCut(pool, row.batch) };
  });
  const plan = planCuts({ ...schedule, rollouts }, now, CUTS);
  if (!plan.ok) return <h2 className="figure">The schedule has faults.</h2>;
  const [first] = plan.value;
  if (!first) return <h2 className="figure trouble">It never happens.</h2>;
  return (
    <>
      <h2 className="figure">
        {isDraft ? 'Kept like this, the' : 'The'} next cut is on {moment(first.cutAt, zone)},{' '}
        {relative(first.cutAt, now)}.
      </h2>
      <table className="table">
        <thead>
          <tr>
            <th>Cut</th>
            <th>Then, each after the one before it is done</th>
          </tr>
        </thead>
        <tbody>
          {plan.value.map((cut) => (
            <tr key={cut.cutAt}>
              <td>{moment(cut.cutAt, zone)}</td>
              <td>
                {cut.rollouts.length === 0 && (
                  <span className="quiet">nothing; it is rolled out by hand</span>
                )}
                {cut.rollouts.map((follower, i) => (
                  <Follower
                    key={follower.poolId}
                    follower={follower}
                    pool={pools.find((pool) => pool.id === follower.poolId)?.name ?? 'a pool to be chosen'}
                    hosts={rollouts[i]?.work?.hosts ?? 0}
                    zone={zone}
                  />
                ))}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

interface FollowerProps {
  readonly follower: PlannedCut['rollouts'][number];
  readonly pool: string;
  readonly hosts: number;
  readonly zone: string;
}

/** When one of the rollouts that follow goes out, and whether one window is enough for it. */
function Follower({ follower: { window, doneIn, hostsAtFirst }, pool, hosts, zone }: FollowerProps) {
  if (!window)
    return (
      <div>
        {pool} <b className="attention">not before the next cut, which drops it</b>
      </div>
    );
  return (
    <div>
      {pool} {moment(window.start, zone)} to {time(window.end, zone)}
      {window.clockChange !== 0 && <b className="attention"> {window.minutes} min: the clocks change</b>}
      {doneIn !== window && (
        <b className="attention">
          {', '}
          {hostsAtFirst ?? 0} of {hosts} hosts,{' '}
          {doneIn ? `the last on ${moment(doneIn.start, zone)}` : 'not done before the next cut'}
        </b>
      )}
    </div>
  );
}

/** What followed the last cuts. */
function Followed({ kept }: { kept: KeptSchedule }) {
  const { zone } = useEstateTime();
  if (kept.rings.length === 0) return null;
  return (
    <>
      <h3 className="section-title">What followed</h3>
      <table className="table">
        <tbody>
          {kept.rings.map((row) => (
            <tr key={row.id}>
              <td className="unbroken">version {row.versionNumber}</td>
              <td className="unbroken">
                {row.rolloutId ? <Link to={`/rollouts/${row.rolloutId}`}>{row.pool}</Link> : row.pool}
              </td>
              <td>
                {row.state}
                {row.dueAt !== null && ` for ${moment(row.dueAt, zone)}`}
              </td>
              <td className="quiet">{row.note}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
