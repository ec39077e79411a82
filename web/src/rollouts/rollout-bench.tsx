/** A rollout under way or ended: where it stands, host by host, and what can be done. */
import { Button, Popconfirm } from 'antd';
import { useMemo } from 'react';
import { useNavigate } from 'react-router';
import { Virtuoso } from 'react-virtuoso';
import type { RolloutDetail } from '@vatline/contract/rollout';
import { rolloutsApi } from '../api/rollouts.ts';
import { problemOf } from '../api/problem.ts';
import { useEstateTime } from '../shell/clock.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { ProblemNote } from '../parts/field.tsx';
import { Finding } from '../parts/finding.tsx';
import { minutes, moment, nearDay, plural, time } from '../parts/format.ts';
import { HostGrid } from '../parts/host-grid.tsx';
import { How } from '../parts/how.tsx';
import { WaitsForClock } from '../parts/waits-for-clock.tsx';

export function RolloutBench({ id }: { id: string }) {
  const { data, error } = rolloutsApi.useRolloutQuery({ params: { id } });
  if (error) return <ProblemNote problem={problemOf(error)} />;
  return data ? <OpenRollout rollout={data} /> : null;
}

function OpenRollout({ rollout }: { rollout: RolloutDetail }) {
  const { now, zone } = useEstateTime();
  const cells = useMemo(
    () =>
      rollout.hostList.map(({ host }) => ({
        id: host.id,
        name: host.name,
        dye: host.dye,
        next: host.nextDye,
        state: host.state,
      })),
    [rollout.hostList],
  );
  return (
    <div className="bench-columns">
      <section className="work" aria-label={`Rollout of ${rollout.pool}`}>
        <h1 className="answer">{headline(rollout, now, zone)}</h1>
        <p className="under-answer">
          <span className="mono">{rollout.pool}</span> from{' '}
          <DyeChip name={rollout.from.dye} number={rollout.from.imageNumber} /> to{' '}
          <DyeChip name={rollout.to.dye} number={rollout.to.imageNumber} />, blend {rollout.from.number} to{' '}
          {rollout.to.number}, {rollout.batch} at a time.{' '}
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
        {rollout.endedAt === null && rollout.failed < left(rollout) && <WaitsForClock what="this rollout" />}
        <Progress rollout={rollout} />
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
function left(rollout: RolloutDetail): number {
  return rollout.hosts - rollout.done - rollout.setAside;
}

function headline(rollout: RolloutDetail, now: number, zone: string): string {
  const verb = rollout.isReturn ? 'back' : 'done';
  if (rollout.endedAt !== null)
    return `${rollout.done} of ${plural(rollout.hosts, 'host')} ${verb}, ended ${moment(rollout.endedAt, zone)}.`;
  if (rollout.state === 'stopped')
    return `Stopped; ${plural(rollout.atWork, 'host')} at work ${rollout.atWork === 1 ? 'is' : 'are'} finished first.`;
  if (left(rollout) === rollout.failed)
    return `${plural(rollout.failed, 'failed host')} to decide about; all others are ${verb}.`;
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

function Progress({ rollout }: { rollout: RolloutDetail }) {
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

function HostTable({ rollout }: { rollout: RolloutDetail }) {
  const { zone } = useEstateTime();
  const order = (stage: string) =>
    stage === 'failed' ? 0 : stage === 'waiting' ? 2 : stage === 'done' ? 3 : 1;
  const rows = useMemo(
    () => [...rollout.hostList].sort((a, b) => order(a.stage) - order(b.stage)),
    [rollout.hostList],
  );
  return (
    <>
      <h2 className="section-title">Host by host</h2>
      <Virtuoso
        style={{ height: Math.min(260, rows.length * 29 + 2) }}
        data={rows}
        itemContent={(_i, row) => (
          <div className="rollout-host">
            <span className="mono">{row.host.name}</span>
            <span className={row.stage === 'failed' ? 'trouble' : row.stage === 'done' ? 'good' : ''}>
              {row.stage}
            </span>
            <span className="quiet">
              {row.startedAt === null
                ? ''
                : `${moment(row.startedAt, zone)}${row.finishedAt === null ? '' : ` to ${time(row.finishedAt, zone)}, ${minutes((row.finishedAt - row.startedAt) / 60_000)}`}`}
            </span>
            <span className="quiet">{row.error ?? ''}</span>
          </div>
        )}
      />
    </>
  );
}

function RolloutEvidence({ rollout }: { rollout: RolloutDetail }) {
  const navigate = useNavigate();
  const { zone } = useEstateTime();
  const [stop, stopping] = rolloutsApi.useStopRolloutMutation();
  const [goBack, going] = rolloutsApi.useGoBackMutation();
  const [act, acting] = rolloutsApi.useRolloutHostMutation();
  const problem = problemOf(stopping.error ?? going.error ?? acting.error);
  const failed = rollout.hostList.filter((row) => row.stage === 'failed');
  const open = rollout.endedAt === null;
  const back = async () => {
    const result = await goBack({ params: { id: rollout.id }, body: {} });
    if (result.data) void navigate(`/rollouts/${result.data.id}`);
  };
  const touched = rollout.done + rollout.atWork + rollout.failed + rollout.setAside;
  return (
    <aside className="evidence" aria-label="What can be done">
      {failed.length > 0 && <h2>Failed</h2>}
      {failed.map((row) => (
        <Finding
          key={row.host.id}
          tone="trouble"
          title={row.host.name}
          action={
            <span className="row" style={{ marginTop: 6 }}>
              <Button
                size="small"
                onClick={() =>
                  void act({ params: { id: rollout.id, hostId: row.host.id }, body: { action: 'retry' } })
                }
              >
                Try again
              </Button>
              <Button
                size="small"
                onClick={() =>
                  void act({ params: { id: rollout.id, hostId: row.host.id }, body: { action: 'set aside' } })
                }
              >
                Set aside
              </Button>
            </span>
          }
        >
          {row.error}, after {plural(row.attempts, 'attempt')}; it is out of service
        </Finding>
      ))}
      <h2>When</h2>
      <p>
        {rollout.window.start} to {rollout.window.end}, {rollout.zone}
      </p>
      {rollout.nextWindow && open && (
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
      <ProblemNote problem={problem} />
      <div className="row" style={{ marginTop: 14 }}>
        {open && rollout.state !== 'stopped' && (
          <Button loading={stopping.isLoading} onClick={() => void stop({ params: { id: rollout.id } })}>
            Stop
          </Button>
        )}
        {!rollout.isReturn && touched > 0 && (
          <Popconfirm
            title={`Roll ${plural(touched, 'host')} back to ${rollout.from.line} ${rollout.from.imageNumber}?`}
            description={`It begins at once, ${rollout.batch} at a time, and waits for sessions as this rollout does.`}
            okText="Go back"
            cancelText="Leave it"
            onConfirm={() => void back()}
          >
            <Button danger loading={going.isLoading}>
              Go back
            </Button>
          </Popconfirm>
        )}
      </div>
    </aside>
  );
}

function Contents({ rollout }: { rollout: RolloutDetail }) {
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
