/** Scratch disks, the one that is full first at the beginning. */
import { Link } from 'react-router';
import type { ScratchDiskShown } from '@vatline/contract/pool/streaming';
import { day, percent, relative, size, time } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';

export function ScratchTable({ disks }: { disks: readonly ScratchDiskShown[] }) {
  const { now, zone } = useEstateTime();
  return (
    <section aria-label="Scratch disks">
      <h2 className="section-title">Scratch disks, the fullest in time first</h2>
      <table className="table">
        <thead>
          <tr>
            <th>Host</th>
            <th>Pool</th>
            <th className="number">Used</th>
            <th className="number">A day</th>
            <th>Full, if not restarted before</th>
          </tr>
        </thead>
        <tbody>
          {disks.map((disk) => (
            <tr key={disk.host}>
              <td className="mono">
                <Link to={`/pools/${disk.poolId}?host=${disk.host}`}>{disk.host}</Link>
              </td>
              <td>{disk.pool}</td>
              <td className="number">
                {size(disk.usedBytes)} <span className="quiet">of {size(disk.bytes)}</span>{' '}
                <span className="scratch-bar" aria-hidden>
                  <i
                    className={disk.isSoon ? 'soon' : ''}
                    style={{ width: `${Math.min(1, disk.usedBytes / disk.bytes) * 100}%` }}
                  />
                </span>{' '}
                {percent(disk.usedBytes / disk.bytes)}
              </td>
              <td className="number">{size(disk.fillsBytesPerDay)}</td>
              <td className={disk.isSoon ? 'trouble' : ''}>
                {disk.fullAt === null
                  ? 'never'
                  : disk.fullAt <= now
                    ? 'full: restart it'
                    : `${day(disk.fullAt, zone)} ${time(disk.fullAt, zone)}, ${relative(disk.fullAt, now)}`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {disks.length === 0 && <p className="quiet">No host that streams is on.</p>}
    </section>
  );
}
