/** What is really on a host now: the containers its agent reported, and when it looks next. */
import { Button } from 'antd';
import { Link } from 'react-router';
import type { HostMounts as Facts } from '@vatline/contract/pool/host';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { moment, plural } from '../../parts/format.ts';

export function HostMounts({ name }: { name: string }) {
  const params = { name };
  const { data, error, refetch } = poolsApi.useHostMountsQuery({ params });
  const [check, checking] = poolsApi.useCheckHostMutation();
  if (!data) return <ProblemNote problem={problemOf(error)} />;
  return (
    <>
      <div className="spread" style={{ margin: '8px 0 4px' }}>
        <span>
          {answer(data)} <NextCheck at={data.nextCheck} isSilent={data.isSilent} />
        </span>
        <Button
          size="small"
          loading={checking.isLoading}
          onClick={() => void check({ params }).then(() => refetch())}
        >
          Check now
        </Button>
      </div>
      {checking.data?.error && <p className="trouble">{checking.data.error}</p>}
      {data.missing.map((row) => (
        <p key={`${row.name} ${row.version}`} className="attention">
          {row.name} {row.version} is in its blend and not mounted.
        </p>
      ))}
      {data.mounts.length > 0 && <Mounts facts={data} />}
      <ProblemNote problem={problemOf(checking.error)} />
    </>
  );
}

function answer({ mounts, missing }: Facts): string {
  const strangers = mounts.filter((mount) => !mount.isWanted && mount.heldBy === null).length;
  const there = `${plural(mounts.length, 'container')} mounted`;
  if (missing.length + strangers === 0) return `${there}, all that its blend says.`;
  return `${there}; ${missing.length} missing, ${strangers} not in its blend.`;
}

/** Counts down on the estate's clock. */
function NextCheck({ at, isSilent }: { at: number; isSilent: boolean }) {
  const { now } = useEstateTime();
  if (isSilent) return <span className="trouble">Its agent is silent.</span>;
  const seconds = Math.max(0, Math.round((at - now) / 1000));
  const text = seconds >= 60 ? `${Math.floor(seconds / 60)} min ${seconds % 60} s` : `${seconds} s`;
  return <span className="quiet">Its agent looks again {seconds === 0 ? 'now' : `in ${text}`}.</span>;
}

function Mounts({ facts }: { facts: Facts }) {
  const { zone } = useEstateTime();
  return (
    <table className="table">
      <thead>
        <tr>
          <th>Package</th>
          <th>Registered</th>
          <th>From</th>
          <th>Since</th>
        </tr>
      </thead>
      <tbody>
        {facts.mounts.map(({ digest, version, entryPoints, share, since, isWanted, heldBy }) => (
          <tr key={digest}>
            <td className={isWanted || heldBy !== null ? '' : 'attention'}>
              {version ? (
                <Link to={`/packages/${version.packageId}`}>
                  {version.name} {version.version}
                </Link>
              ) : (
                'not in the library any more'
              )}
            </td>
            <td>
              {heldBy === null
                ? entryPoints.join(', ') || 'nothing'
                : `for ${plural(heldBy, 'session')} from before; it goes when the last ends`}
            </td>
            <td className="mono" title={`sha256:${digest}`}>
              {share}/{digest.slice(0, 10)}…
            </td>
            <td>{moment(since, zone)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
