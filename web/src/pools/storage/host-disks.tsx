/** The disks that a host stands on, drawn one upon the other, the lowest at the bottom. */
import './storage.css';
import type { HostDisk } from '@vatline/contract/pool/datastore';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { ProblemNote } from '../../parts/field.tsx';
import { count, plural, size } from '../../parts/format.ts';

const chained: readonly HostDisk['role'][] = ['parent', 'own', 'child', 'clean', 'running'];

export function HostDisks({ name }: { name: string }) {
  const { data: disks, error } = poolsApi.useHostDisksQuery({ params: { name } });
  if (!disks) return <ProblemNote problem={problemOf(error)} />;
  const chain = disks.filter((disk) => chained.includes(disk.role));
  const beside = disks.filter((disk) => !chained.includes(disk.role));
  const own = disks.filter((disk) => disk.role !== 'parent').reduce((sum, disk) => sum + disk.bytes, 0);
  if (disks.length === 0) return <p className="quiet">It has no disk at the hypervisor.</p>;
  return (
    <section aria-label={`Disks of ${name}`}>
      <p>
        {size(own)} of its own
        {chain.length > 1 ? `, in ${plural(chain.length, 'disk')} that stand on one another.` : '.'}
      </p>
      <ol className="disk-chain" reversed>
        {[...chain].reverse().map((disk) => (
          <Disk key={disk.role} disk={disk} />
        ))}
      </ol>
      {beside.length > 0 && (
        <ul className="disk-chain beside">
          {beside.map((disk) => (
            <Disk key={disk.role} disk={disk} />
          ))}
        </ul>
      )}
    </section>
  );
}

function Disk({ disk }: { disk: HostDisk }) {
  return (
    <li className={`disk ${disk.role}`}>
      <span>{disk.name}</span>
      <span className="quiet">
        {disk.datastore} of {disk.site}
        {disk.role === 'parent' && `; ${count(disk.standOn)} hosts stand on it`}
      </span>
      <span className="number" title={`${count(disk.bytes)} bytes`}>
        {size(disk.bytes)}
      </span>
    </li>
  );
}
