/** How promises were kept: every ended rollout against what was forecast at its start. */
import '../rollouts.css';
import './promises.css';
import { Button } from 'antd';
import { lazy, Suspense } from 'react';
import { Link, useNavigate } from 'react-router';
import type { Promises } from '@vatline/contract/promises';
import { rolloutsApi } from '../../api/rollouts.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { How } from '../../parts/how.tsx';
import { moment, plural, time } from '../../parts/format.ts';
import { Station } from '../../shell/station.tsx';
import { useEstateTime } from '../../shell/clock.ts';
import { useRolloutRack } from '../rollout-rack.tsx';
import { answerInWords, shareInWords } from './promises-in-words.ts';

const CalibrationChart = lazy(async () => ({
  default: (await import('./calibration-chart.tsx')).CalibrationChart,
}));

export function PromisesPage() {
  const navigate = useNavigate();
  const items = useRolloutRack();
  const { data, error } = rolloutsApi.usePromisesQuery({});
  return (
    <Station
      items={items ?? []}
      action={<Button onClick={() => void navigate('/rollouts/new')}>Plan a rollout</Button>}
    >
      <section className="work" aria-label="Promises">
        <ProblemNote problem={problemOf(error)} />
        {data && <Answer promises={data} />}
        {data && data.kept.length > 0 && (
          <>
            <Suspense fallback={<div style={{ height: 220 }} />}>
              <CalibrationChart by={data.calibration.by} />
            </Suspense>
            <KeptTable kept={data.kept} />
          </>
        )}
      </section>
    </Station>
  );
}

function Answer({ promises }: { readonly promises: Promises }) {
  const { calibration, leftOut, kept } = promises;
  return (
    <>
      <h1 className="answer">{answerInWords(promises)}</h1>
      <p className="under-answer">
        {kept.length === 0
          ? 'When one ends, it stands here beside what was forecast when it began.'
          : `Between the early and the late end lay ${shareInWords(calibration.inBand)}; 8 in 10 should.`}
        {leftOut > 0 &&
          ` ${plural(leftOut, 'rollout')} that ${leftOut === 1 ? 'was' : 'were'} stopped, paused, changed or never promised an end ${leftOut === 1 ? 'is' : 'are'} left out.`}{' '}
        <How
          rows={[
            ['Promised', 'at its start each rollout keeps when it would end in 1, 5 and 9 of 10 simulations'],
            ['Held', 'the share of rollouts that had ended by then'],
            [
              'By chance',
              'the range in which the true share lies, 19 in 20 (Wilson); the fewer rollouts, the wider',
            ],
          ]}
        />
      </p>
    </>
  );
}

function KeptTable({ kept }: Pick<Promises, 'kept'>) {
  const { zone } = useEstateTime();
  return (
    <table className="table">
      <thead>
        <tr>
          <th>Pool</th>
          <th className="number">Hosts</th>
          <th>Begun</th>
          <th>Promised, 1 to 9 in 10</th>
          <th>Ended</th>
          <th className="promise-band">Early to late</th>
        </tr>
      </thead>
      <tbody>
        {kept.map(({ id, pool, hosts, startedAt, promised, endedAt }) => (
          <tr key={id}>
            <td className="mono">
              <Link to={`/rollouts/${id}`}>{pool}</Link>
            </td>
            <td className="number">{hosts}</td>
            <td>{moment(startedAt, zone)}</td>
            <td>
              {moment(promised.p10, zone)} to {time(promised.p90, zone)}
            </td>
            <td className={endedAt > promised.p90 ? 'attention' : ''}>{moment(endedAt, zone)}</td>
            <td className="promise-band">
              <Band promised={promised} endedAt={endedAt} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** Where the end lies: the band in the middle half, the dot no further out than the edges. */
function Band({ promised: { p10, p90 }, endedAt }: Pick<Promises['kept'][number], 'promised' | 'endedAt'>) {
  const width = Math.max(1, p90 - p10);
  const at = Math.min(1, Math.max(0, 0.25 + ((endedAt - p10) / width) * 0.5));
  const says =
    endedAt < p10 ? 'earlier than the early end' : endedAt > p90 ? 'later than the late end' : 'between them';
  return (
    <span className="band" role="img" aria-label={says}>
      <i style={{ left: `${at * 100}%` }} />
    </span>
  );
}
