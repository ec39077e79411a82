/** One host of the table. Some dozens are drawn at every key of the filter, so a row is plain elements. */
import { memo } from 'react';
import { Link } from 'react-router';
import { dye } from '@vatline/core/dye/dyes';
import type { Host } from '@vatline/contract/pool/host';
import { relative, size, time } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';

interface Props {
  readonly host: Host;
  readonly isPicked: boolean;
  readonly toggle: (name: string) => void;
}

export const HostRow = memo(function HostRow({ host, isPicked, toggle }: Props) {
  const { now, zone } = useEstateTime();
  return (
    <div className="host-row">
      <input
        type="checkbox"
        aria-label={`Choose ${host.name}`}
        checked={isPicked}
        onChange={() => toggle(host.name)}
      />
      <Link className="mono" to={`?host=${host.name}`} replace>
        {host.name}
      </Link>
      <span title={host.note}>
        {host.state}
        {host.note && <span className="attention"> !</span>}
      </span>
      <span>
        {host.blend} {dye(host.dye).letters}
      </span>
      <span className="number" title={host.owner ?? ''}>
        {host.sessions}
      </span>
      <span className={host.isSilent ? 'trouble' : 'quiet'}>
        {host.lastReport === null ? 'never' : `at ${time(host.lastReport, zone)}`}
      </span>
      <span className="quiet">{host.upSince === null ? 'off' : relative(host.upSince, now)}</span>
      <span
        className="number"
        title={host.scratchBytes === null ? '' : `of a scratch disk of ${size(host.scratchBytes)}`}
      >
        {size(host.ownBytes)}
      </span>
      <span className="number quiet">
        {host.growsBytesPerDay > 0 ? `+${size(host.growsBytesPerDay)}` : ''}
      </span>
    </div>
  );
});
