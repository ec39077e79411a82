/** The record of a rollout: a page that prints, and files to keep. */
import '../rollouts.css';
import './record.css';
import { Button } from 'antd';
import { Link, useParams } from 'react-router';
import { recordFileEndpoints, type RolloutRecord } from '@vatline/contract/rollout-record';
import { addressOf } from '../../api/base.ts';
import { problemOf } from '../../api/problem.ts';
import { rolloutsApi } from '../../api/rollouts.ts';
import { download } from '../../parts/download.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { capital, moment, time } from '../../parts/format.ts';
import { Station } from '../../shell/station.tsx';
import { useEstateTime } from '../../shell/clock.ts';
import { useRolloutRack } from '../rollout-rack.tsx';
import { figuresInWords, planInWords, promiseInWords } from './record-in-words.ts';

export function RecordPage() {
  const { rolloutId = '' } = useParams();
  const items = useRolloutRack(rolloutId);
  const { data, error } = rolloutsApi.useRolloutRecordQuery({ params: { id: rolloutId } });
  return (
    <Station items={items ?? []}>
      <section className="work record" aria-label="Record">
        <ProblemNote problem={problemOf(error)} />
        {data && <Record record={data} />}
      </section>
    </Station>
  );
}

function Record({ record }: { readonly record: RolloutRecord }) {
  const { zone } = useEstateTime();
  const { rollout, revisions, approvals } = record;
  const { from, to } = rollout;
  const first = revisions.at(-1);
  const changes = revisions.slice(0, -1).reverse();
  return (
    <>
      <h1 className="answer">
        Record of {rollout.pool}: blend {from.number} to {to.number}
      </h1>
      <p className="under-answer">{figuresInWords(record)}</p>
      <div className="row no-print" role="group" aria-label="Keep it">
        <Button onClick={() => window.print()}>Print</Button>
        <Button href={`/api/v1${addressOf(recordFileEndpoints.hosts, { id: rollout.id })}`}>
          Save as CSV
        </Button>
        <Button
          onClick={() =>
            download(`rollout-${rollout.pool}.json`, JSON.stringify(record, null, 2), 'application/json')
          }
        >
          Save as JSON
        </Button>
        <Link to={`/rollouts/${rollout.id}`}>the rollout itself</Link>
      </div>
      <h2 className="section-title">What and when</h2>
      <p>
        {from.line} {from.imageNumber} with {from.packages.length} packages to {to.line} {to.imageNumber} with{' '}
        {to.packages.length}, begun {moment(rollout.startedAt, zone)}
        {rollout.isReturn && ', the way back'}.
      </p>
      <p>{promiseInWords(record, zone)}</p>
      <h2 className="section-title">The plan</h2>
      {first && <p>{planInWords(first.plan)}</p>}
      {changes.length === 0 ? (
        <p className="quiet">It was not changed on the way.</p>
      ) : (
        <ul className="plain-list">
          {changes.map((one) => (
            <li key={one.number}>
              {moment(one.at, zone)}, {one.by ?? 'by itself'}: {one.says}
              {one.why !== '' && ` (${one.why})`}
            </li>
          ))}
        </ul>
      )}
      <h2 className="section-title">Who let it go on</h2>
      {approvals.length === 0 ? (
        <p className="quiet">No approval is on record.</p>
      ) : (
        <ul className="plain-list">
          {approvals.map(({ what, by, at, why }) => (
            <li key={`${what} ${at}`}>
              {capital(what)} by {by}, {moment(at, zone)}
              {why !== '' && `: ${why}`}
            </li>
          ))}
        </ul>
      )}
      <HostRecords hosts={record.hosts} zone={zone} />
    </>
  );
}

/** Failed ones and those that took another attempt first: they are what a record is read for. */
function HostRecords({ hosts, zone }: Pick<RolloutRecord, 'hosts'> & { readonly zone: string }) {
  const rank = ({ stage, attempts }: RolloutRecord['hosts'][number]) =>
    stage === 'failed' || stage === 'set aside' ? 0 : attempts > 1 ? 1 : 2;
  const shown = hosts.toSorted((a, b) => rank(a) - rank(b)).slice(0, SHOWN);
  return (
    <>
      <h2 className="section-title">Host by host</h2>
      <table className="table">
        <thead>
          <tr>
            <th>Host</th>
            <th>Way</th>
            <th>Came to</th>
            <th className="number">Attempts</th>
            <th>From</th>
            <th>To</th>
            <th>Failed with</th>
          </tr>
        </thead>
        <tbody>
          {shown.map(({ name, way, stage, attempts, startedAt, finishedAt, error }) => (
            <tr key={name}>
              <td className="mono">{name}</td>
              <td>{way ?? ''}</td>
              <td className={stage === 'failed' || stage === 'set aside' ? 'trouble' : ''}>{stage}</td>
              <td className="number">{attempts}</td>
              <td>{startedAt === null ? '' : moment(startedAt, zone)}</td>
              <td>{finishedAt === null ? '' : time(finishedAt, zone)}</td>
              <td className="quiet">{error ?? ''}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {hosts.length > SHOWN && <p className="quiet">and {hosts.length - SHOWN} more; the files have all.</p>}
    </>
  );
}

/** More than these nobody reads on paper. */
const SHOWN = 500;
