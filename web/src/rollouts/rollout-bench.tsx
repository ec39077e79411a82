/** A rollout under way or ended: where it stands, host by host, and what can be done. */
import { Button, Dropdown, Popconfirm } from 'antd';
import { lazy, Suspense, useState } from 'react';
import { Link } from 'react-router';
import { decisionRefusal, type HostDecision } from '@vatline/core/rollout/host-decision';
import { ruleInWords } from '@vatline/core/time/rule-in-words';
import type { Rollout, RolloutHost } from '@vatline/contract/rollout';
import { rolloutsApi } from '../api/rollouts.ts';
import { problemOf } from '../api/problem.ts';
import { useEstateTime } from '../shell/clock.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { Finding } from '../parts/finding.tsx';
import { capital, minutes, moment, nearDay, plural, time } from '../parts/format.ts';
import { HostGrid } from '../parts/host-grid.tsx';
import { How } from '../parts/how.tsx';
import { NameFilter, NoSuchName } from '../parts/name-filter.tsx';
import { PagedList, rowsOf, totalOf } from '../parts/paged-list.tsx';
import { WaitsForClock } from '../parts/waits-for-clock.tsx';
import { CalendarLink } from './calendar-link.tsx';
import { GoBack } from './go-back.tsx';
import { ChangePlan } from './change-plan.tsx';
import { GoOnButton, PauseButton } from './pause.tsx';
import { PlanRevisions } from './plan-revisions.tsx';

const LiveTide = lazy(async () => ({ default: (await import('./live-tide.tsx')).LiveTide }));

export function RolloutBench({ id }: { id: string }) {
  const { data, error } = rolloutsApi.useRolloutQuery({ params: { id } });
  if (error) return <ProblemNote problem={problemOf(error)} />;
  return data ? <OpenRollout rollout={data} /> : null;
}

function OpenRollout({ rollout }: { rollout: Rollout }) {
  const { now, zone } = useEstateTime();
  const { data: cells = [] } = rolloutsApi.useRolloutCellsQuery({ params: { id: rollout.id } });
  return (
    <div className="bench-columns">
      <section className="work" aria-label={`Rollout of ${rollout.pool}`}>
        <h1 className="answer">{headline(rollout, now, zone)}</h1>
        <p className="under-answer">
          <span className="mono">{rollout.pool}</span> from{' '}
          <DyeChip name={rollout.from.dye} number={rollout.from.imageNumber} />
          {rollout.to.imageVersionId !== rollout.from.imageVersionId && (
            <>
              {' '}
              to <DyeChip name={rollout.to.dye} number={rollout.to.imageNumber} />
            </>
          )}
          , blend {rollout.from.number} to {rollout.to.number}, {rollout.plan.batch} at a time
          {rollout.partOf && (
            <>
              ; {rollout.partOf.ring}, a ring of{' '}
              <Link to={`/rollouts/staged/${rollout.partOf.id}`}>{rollout.partOf.title}</Link>
            </>
          )}
          .{' '}
          <How
            rows={[
              [
                'Promised',
                rollout.promisedAt === null
                  ? 'at its start no end could be promised'
                  : `at its start: done by ${moment(rollout.promisedAt, zone)}, 9 in 10`,
              ],
              [
                'Expected',
                rollout.expectedAt === null
                  ? 'no end can be forecast for what is left'
                  : `now: what is left is done by ${moment(rollout.expectedAt, zone)}, 9 in 10`,
              ],
              [
                'A host starts only',
                'while a place in the batch is free and its 90th percentile end lies inside the window',
              ],
            ]}
          />
        </p>
        {rollout.endedAt === null && rollout.pausedAt === null && rollout.failed < left(rollout) && (
          <WaitsForClock what="this rollout" />
        )}
        <Progress rollout={rollout} />
        <Suspense fallback={<div style={{ height: 196 }} />}>
          <LiveTide rollout={rollout} />
        </Suspense>
        <HostGrid
          cells={cells}
          cellSize={24}
          maxHeight={220}
          label={`${rollout.pool}: ${rollout.done} of ${plural(rollout.hosts, 'host')} done`}
        />
        <HostTable rollout={rollout} />
      </section>
      <RolloutEvidence rollout={rollout} />
    </div>
  );
}

/** Hosts that are neither done nor set aside. */
function left(rollout: Rollout): number {
  return rollout.hosts - rollout.done - rollout.setAside;
}

function headline(rollout: Rollout, now: number, zone: string): string {
  const verb = rollout.isReturn ? 'back' : 'done';
  if (rollout.endedAt !== null)
    return `${rollout.done} of ${plural(rollout.hosts, 'host')} ${verb}, ended ${moment(rollout.endedAt, zone)}.`;
  if (rollout.state === 'stopped')
    return `Stopped; ${plural(rollout.atWork, 'host')} at work ${rollout.atWork === 1 ? 'is' : 'are'} finished first.`;
  if (left(rollout) === rollout.failed)
    return `${plural(rollout.failed, 'failed host')} to decide about; all others are ${verb}.`;
  if (rollout.pausedAt !== null)
    return `Paused since ${time(rollout.pausedAt, zone)} ${nearDay(rollout.pausedAt, now, zone)}; ${plural(left(rollout), 'host')} left${rollout.atWork > 0 ? `, ${rollout.atWork} at work ${rollout.atWork === 1 ? 'is' : 'are'} finished` : ''}.`;
  const end =
    rollout.expectedAt === null
      ? 'with no end in sight'
      : `done by ${time(rollout.expectedAt, zone)} ${nearDay(rollout.expectedAt, now, zone)} (9 in 10)`;
  if (rollout.state === 'at work')
    return `${rollout.done} of ${plural(rollout.hosts, 'host')} ${verb}, ${rollout.atWork} at work; ${end}.`;
  const window = rollout.nextWindow;
  const goesOn = window
    ? `${rollout.done === 0 ? 'begins' : 'goes on'} ${nearDay(window.start, now, zone)} at ${time(window.start, zone)}`
    : 'has no window left';
  return `${plural(left(rollout), 'host')} left: ${goesOn}, ${end}.`;
}

function Progress({ rollout }: { rollout: Rollout }) {
  const share = (n: number) => `${(n / Math.max(1, rollout.hosts)) * 100}%`;
  return (
    <>
      <div
        className="progress"
        role="img"
        aria-label={`${rollout.done} done, ${rollout.atWork} at work, ${rollout.failed} failed of ${rollout.hosts}`}
      >
        <i className="done" style={{ width: share(rollout.done) }} />
        <i className="at-work" style={{ width: share(rollout.atWork) }} />
        <i className="failed" style={{ width: share(rollout.failed + rollout.setAside) }} />
      </div>
      <p className="legend" style={{ marginBottom: 10 }}>
        <span>{rollout.done} done</span>
        <span>{rollout.atWork} at work</span>
        <span>
          {rollout.hosts - rollout.done - rollout.atWork - rollout.failed - rollout.setAside} waiting
        </span>
        {rollout.failed > 0 && <span className="trouble">{rollout.failed} failed</span>}
        {rollout.setAside > 0 && <span>{rollout.setAside} set aside</span>}
      </p>
    </>
  );
}

function HostTable({ rollout }: { rollout: Rollout }) {
  const { zone } = useEstateTime();
  const [q, setQ] = useState('');
  const list = rolloutsApi.useRolloutHostsInfiniteQuery({
    params: { id: rollout.id },
    query: { q, sort: 'stage' },
  });
  return (
    <>
      <h2 className="section-title spread">
        <span>Host by host</span>
        <NameFilter value={q} onChange={setQ} />
      </h2>
      <PagedList
        list={list}
        rowHeight={29}
        maxHeight={260}
        none={<NoSuchName text={q} />}
        row={(row) => (
          <div className="rollout-host">
            <span className="mono">{row.host.name}</span>
            <span className={row.stage === 'failed' ? 'trouble' : row.stage === 'done' ? 'good' : ''}>
              {row.stage}
            </span>
            <span className="quiet">{spanOf(row, zone)}</span>
            <span className="quiet">{row.error ?? waitsFor(row, zone)}</span>
            <Turn rollout={rollout} row={row} />
          </div>
        )}
      />
    </>
  );
}

const turns: readonly (readonly [HostDecision, string])[] = [
  ['first', 'Take it next'],
  ['last', 'Take it last'],
  ['set aside', 'Leave it out'],
];

/** What can be decided about a host that waits; of one that has failed it stands beside. */
function Turn({ rollout, row }: { readonly rollout: Rollout; readonly row: RolloutHost }) {
  const [decide, deciding] = rolloutsApi.useRolloutHostMutation();
  const where = {
    stage: row.stage,
    hasEnded: rollout.endedAt !== null,
    isStopped: rollout.state === 'stopped',
  };
  const items = turns
    .filter(([decision]) => row.stage === 'waiting' && decisionRefusal(decision, where) === undefined)
    .map(([key, label]) => ({ key, label }));
  if (items.length === 0) return null;
  const press = (action: HostDecision) =>
    void decide({ params: { id: rollout.id, hostId: row.host.id }, body: { action } });
  const problem = problemOf(deciding.error);
  return (
    <Dropdown
      trigger={['click']}
      // Within the landmarks of the page, and not cut off by the list.
      getPopupContainer={(node) => node.closest<HTMLElement>('.bench') ?? document.body}
      menu={{
        items,
        onClick: ({ key }) => press(turns.find(([decision]) => decision === key)?.[0] ?? 'last'),
      }}
    >
      <Button size="small" type="text" aria-label={`Turn of ${row.host.name}`} title={problem?.detail ?? ''}>
        …
      </Button>
    </Dropdown>
  );
}

/** What a host waits for that is attached while people work on, or who on it still has what was there before. */
function waitsFor({ looksAt, heldSessions }: RolloutHost, zone: string): string {
  if (looksAt !== null) return `its agent looks at ${time(looksAt, zone)}`;
  return heldSessions > 0
    ? `${plural(heldSessions, 'session')} from before ${heldSessions === 1 ? 'keeps' : 'keep'} what was there`
    : '';
}

/** `Tue 23 Mar 01:00 to 01:34, 34 min`. */
function spanOf({ startedAt, finishedAt }: RolloutHost, zone: string): string {
  if (startedAt === null) return '';
  if (finishedAt === null) return moment(startedAt, zone);
  return `${moment(startedAt, zone)} to ${time(finishedAt, zone)}, ${minutes((finishedAt - startedAt) / 60_000)}`;
}

function RolloutEvidence({ rollout }: { rollout: Rollout }) {
  const { zone } = useEstateTime();
  const [goesBack, setGoesBack] = useState(false);
  const [stop, stopping] = rolloutsApi.useStopRolloutMutation();
  const problem = problemOf(stopping.error);
  const [changing, setChanging] = useState(false);
  const open = rollout.endedAt === null;
  const isRunning = open && rollout.state !== 'stopped';
  const touched = rollout.done + rollout.atWork + rollout.failed + rollout.setAside;
  return (
    <aside className="evidence" aria-label="What can be done">
      {rollout.failed > 0 && <FailedHosts rollout={rollout} />}
      <h2>When</h2>
      <p>
        {capital(ruleInWords(rollout.plan.window.rule))}, {rollout.plan.window.start} to{' '}
        {rollout.plan.window.end}, {rollout.plan.zone}
        {rollout.calendars.length > 0 && `, not on the days of ${rollout.calendars.join(' and ')}`}
      </p>
      {rollout.nextWindow && open && rollout.pausedAt === null && (
        <p>
          {rollout.state === 'at work' ? 'This window' : 'Next window'}:{' '}
          {moment(rollout.nextWindow.start, zone)} to {time(rollout.nextWindow.end, zone)}
          {rollout.nextWindow.clockChange !== 0 && (
            <b className="attention">, {rollout.nextWindow.minutes / 60} hours: the clocks change</b>
          )}
        </p>
      )}
      <p className="quiet">
        started {moment(rollout.startedAt, zone)}
        {rollout.promisedAt !== null && `; promised by ${moment(rollout.promisedAt, zone)}`}
      </p>
      <h2>What changes</h2>
      <Contents rollout={rollout} />
      <PlanRevisions rollout={rollout} />
      {goesBack && <GoBack rollout={rollout} close={() => setGoesBack(false)} />}
      {changing && <ChangePlan rollout={rollout} close={() => setChanging(false)} />}
      <ProblemNote problem={problem} />
      <div className="row" role="group" aria-label="Decide" style={{ marginTop: 14 }}>
        {isRunning &&
          (rollout.pausedAt === null ? <PauseButton rollout={rollout} /> : <GoOnButton rollout={rollout} />)}
        {isRunning && <Button onClick={() => setChanging(true)}>Change</Button>}
        {isRunning && (
          <Button
            loading={stopping.isLoading}
            onClick={() => void stop({ params: { id: rollout.id }, body: {} })}
          >
            Stop
          </Button>
        )}
        {isRunning && rollout.atWork > 0 && (
          <Popconfirm
            title="Stop, and let people stay who have yet to leave?"
            description="Hosts that only wait for them go back into service as they are. Those being made or attached are finished: half made they are worth nothing."
            okText="Let them stay"
            cancelText="Leave it"
            onConfirm={() => void stop({ params: { id: rollout.id }, body: { letsGo: true } })}
          >
            <Button loading={stopping.isLoading}>Stop now</Button>
          </Popconfirm>
        )}
        {!rollout.isReturn && touched > 0 && (
          <Button danger onClick={() => setGoesBack(true)}>
            Go back
          </Button>
        )}
      </div>
      <p style={{ marginTop: 10 }}>
        <Link to={`/rollouts/${rollout.id}/record`}>its record</Link>, to keep or to print
      </p>
      {open && <CalendarLink />}
    </aside>
  );
}

/** More than these are decided about one after the other. */
const FAILED_SHOWN = 20;

function FailedHosts({ rollout }: { rollout: Rollout }) {
  const [act, acting] = rolloutsApi.useRolloutHostMutation();
  const list = rolloutsApi.useRolloutHostsInfiniteQuery({
    params: { id: rollout.id },
    query: { stage: 'failed', limit: FAILED_SHOWN },
  });
  const decide = (hostId: string, action: 'retry' | 'set aside') =>
    void act({ params: { id: rollout.id, hostId }, body: { action } });
  const rows = rowsOf(list);
  const more = (totalOf(list) ?? 0) - rows.length;
  return (
    <>
      <h2>Failed</h2>
      {rows.map(({ host, error, attempts }) => (
        <Finding
          key={host.id}
          tone="trouble"
          title={host.name}
          action={
            <span className="row" style={{ marginTop: 6 }}>
              {rollout.endedAt === null && (
                <Button size="small" onClick={() => decide(host.id, 'retry')}>
                  Try again
                </Button>
              )}
              <Button size="small" onClick={() => decide(host.id, 'set aside')}>
                Set aside
              </Button>
            </span>
          }
        >
          {error}, after {plural(attempts, 'attempt')}; it is out of service
        </Finding>
      ))}
      {more > 0 && <p className="quiet">and {plural(more, 'more host')}; they come as these are decided</p>}
      <ProblemNote problem={problemOf(acting.error)} />
    </>
  );
}

function Contents({ rollout }: { rollout: Rollout }) {
  const { from, to } = rollout;
  const had = new Set(from.packages.map((row) => row.id));
  const has = new Set(to.packages.map((row) => row.id));
  const added = to.packages.filter((row) => !had.has(row.id));
  const gone = from.packages.filter((row) => !has.has(row.id));
  return (
    <ul className="plain-list">
      {from.imageVersionId !== to.imageVersionId && (
        <li>
          image {from.imageNumber} to {to.imageNumber}
        </li>
      )}
      {added.map((row) => (
        <li key={row.id}>
          <span className="good">+</span> {row.name} {row.version}
        </li>
      ))}
      {gone.map((row) => (
        <li key={row.id}>
          <span className="trouble">−</span> {row.name} {row.version}
        </li>
      ))}
      {added.length + gone.length === 0 && (
        <li className="quiet">the same {plural(to.packages.length, 'package')} attached</li>
      )}
    </ul>
  );
}
