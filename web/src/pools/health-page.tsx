/** The station's own page: how all pools are, the worst first, and where each thing is mended. */
import { Link } from 'react-router';
import type { PoolHealth } from '@vatline/contract/pool/health';
import { poolsApi } from '../api/pools.ts';
import { problemOf } from '../api/problem.ts';
import { ProblemNote } from '../parts/field.tsx';
import { count, percent, plural } from '../parts/format.ts';
import { findingInWords, healthHeadline } from './health-in-words.ts';

export function HealthPage() {
  const { data: pools, error } = poolsApi.usePoolHealthQuery({});
  return (
    <section className="work" aria-label="How the pools are">
      {pools && <h1 className="answer">{healthHeadline(pools)}</h1>}
      <p className="under-answer">
        The worst first. Seats are those of hosts in service; the busiest hour is looked for in the next
        twelve. Of the day, bars are sessions expected, ticks those had when the hour was last.
      </p>
      <ProblemNote problem={problemOf(error)} />
      {pools && pools.length > 0 && <HealthTable pools={pools} />}
    </section>
  );
}

function HealthTable({ pools }: { pools: readonly PoolHealth[] }) {
  return (
    <table className="table health-table">
      <thead>
        <tr>
          <th>Pool</th>
          <th>What it needs</th>
          <th className="number">In service</th>
          <th className="number">Seats in use</th>
          <th className="number">Busiest</th>
          <th>The day, expected and had</th>
          <th>Start-up</th>
          <th>Failures in 7 days</th>
        </tr>
      </thead>
      <tbody>
        {pools.map((pool) => (
          <tr key={pool.id}>
            <td>
              <Link className="mono" to={`/pools/${pool.id}`}>
                {pool.name}
              </Link>
            </td>
            <td>
              <Findings pool={pool} />
            </td>
            <td className="number">
              {count(pool.inService)} <span className="quiet">of {count(pool.hosts)}</span>
            </td>
            <td className="number" title={`${count(pool.sessions)} of ${count(pool.seats)}`}>
              {pool.seats === 0 ? '' : percent(pool.sessions / pool.seats)}
            </td>
            <td className="number">
              {count(pool.busiest.expected)}{' '}
              <span className="quiet">at {String(pool.busiest.hour).padStart(2, '0')}:00</span>
            </td>
            <td>
              <Day pool={pool} />
            </td>
            <td>
              <StartUp startUp={pool.startUp} />
            </td>
            <td>
              <Failures failures={pool.failures} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Findings({ pool }: { pool: PoolHealth }) {
  if (pool.findings.length === 0) return <span className="quiet">nothing</span>;
  return pool.findings.map((finding) => {
    const { text, to } = findingInWords(pool, finding);
    return (
      <div key={finding.what}>
        <Link className={finding.tone === 'calm' ? 'quiet' : finding.tone} to={to}>
          {text}
        </Link>
      </div>
    );
  });
}

/** Until people can be sent to a host that was off. */
function StartUp({ startUp: { p50Minutes, p90Minutes, measured } }: Pick<PoolHealth, 'startUp'>) {
  return (
    <span
      className={measured === 0 ? 'quiet' : ''}
      title={
        measured === 0
          ? 'assumed, as long as fewer than five starts were measured'
          : `half of ${measured} starts within ${p50Minutes.toFixed(1)} min, nine of ten within ${p90Minutes.toFixed(1)} min`
      }
    >
      {p90Minutes.toFixed(1)} min
    </span>
  );
}

/** A bar an hour for what is expected, a tick for what was had when that hour was last; what is over the seats there are stands out. */
function Day({ pool }: { pool: PoolHealth }) {
  const had = pool.had.map((sessions) => sessions ?? 0);
  const top = Math.max(pool.seats, ...pool.expected, ...had, 1);
  const short = pool.expected.filter((sessions) => sessions > pool.seats).length;
  return (
    <div
      className="health-day"
      role="img"
      aria-label={`${pool.name}: ${short === 0 ? 'seats last all day' : `seats run short in ${plural(short, 'hour')}`}`}
    >
      {pool.expected.map((sessions, hour) => (
        <span key={hour} title={hourInWords(hour, sessions, pool.had[hour] ?? null)}>
          <i
            className={sessions > pool.seats ? 'over' : ''}
            style={{ height: `${(sessions / top) * 100}%` }}
          />
          {typeof pool.had[hour] === 'number' && (
            <b style={{ bottom: `${((had[hour] ?? 0) / top) * 100}%` }} />
          )}
        </span>
      ))}
    </div>
  );
}

function hourInWords(hour: number, expected: number, had: number | null): string {
  const at = `${String(hour).padStart(2, '0')}:00: ${count(Math.round(expected))} expected`;
  return had === null ? `${at}, not measured yet` : `${at}, ${count(had)} had`;
}

function Failures({ failures }: { failures: readonly number[] }) {
  const all = failures.reduce((sum, n) => sum + n, 0);
  return all === 0 ? (
    <span className="quiet">none</span>
  ) : (
    <span title={failures.map((n) => String(n)).join(', ')}>
      {count(all)}, {count(failures.at(-1) ?? 0)} of them in the last day
    </span>
  );
}
