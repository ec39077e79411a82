/** A pool's hosts as a grid, and as a table one key away. */
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { Virtuoso } from 'react-virtuoso';
import { dye } from '@vatline/core/dye/dyes';
import type { Host } from '@vatline/contract/pool/host';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import { plural } from '../parts/format.ts';
import { HostGrid } from '../parts/host-grid.tsx';
import { HostMounts } from './host-mounts.tsx';

type Order = 'name' | 'state';

export function HostList({ pool, chosen }: { pool: PoolDetail; chosen: string | null }) {
  const navigate = useNavigate();
  const [order, setOrder] = useState<Order>('name');
  const [asTable, setAsTable] = useState(false);
  const hosts = useMemo(
    () =>
      order === 'name'
        ? pool.hostList
        : [...pool.hostList].sort((a, b) => a.state.localeCompare(b.state) || a.dye.localeCompare(b.dye)),
    [pool.hostList, order],
  );
  const cells = useMemo(
    () =>
      hosts.map((host) => ({
        id: host.id,
        name: host.name,
        dye: host.dye,
        next: host.nextDye,
        state: host.state,
      })),
    [hosts],
  );
  const host = pool.hostList.find((row) => row.name === chosen);
  if (pool.hostList.length === 0) return null;
  return (
    <>
      <div className="row" style={{ margin: '4px 0 8px' }}>
        <span className="quiet">Hosts by</span>
        <button
          type="button"
          className="plain-button"
          aria-pressed={order === 'name'}
          onClick={() => setOrder('name')}
        >
          name
        </button>
        <button
          type="button"
          className="plain-button"
          aria-pressed={order === 'state'}
          onClick={() => setOrder('state')}
        >
          state
        </button>
        <button
          type="button"
          className="plain-button"
          aria-pressed={asTable}
          onClick={() => setAsTable(!asTable)}
        >
          as a table
        </button>
      </div>
      {asTable ? (
        <HostTable hosts={hosts} />
      ) : (
        <HostGrid
          cells={cells}
          cellSize={24}
          maxHeight={360}
          label={`${pool.name}: ${plural(hosts.length, 'host')}`}
          onOpen={(cell) => void navigate(`?host=${cell.name}`, { replace: true })}
        />
      )}
      {host && <HostCard host={host} limit={pool.sessionLimit} />}
    </>
  );
}

function HostCard({ host, limit }: { host: Host; limit: number }) {
  return (
    <section className="container-card" aria-label={host.name}>
      <b className="mono">{host.name}</b>
      <p>
        {host.state}, blend {host.blend} ({dye(host.dye).letters}), {host.sessions} of{' '}
        {plural(limit, 'session')}
        {host.nextDye && `, to run ${dye(host.nextDye).letters}`}
      </p>
      {host.note && <p className="attention">{host.note}</p>}
      <HostMounts name={host.name} />
    </section>
  );
}

export function HostTable({ hosts }: { hosts: readonly Host[] }) {
  return (
    <Virtuoso
      style={{ height: Math.min(400, hosts.length * 29 + 2) }}
      data={hosts as Host[]}
      itemContent={(_i, host) => (
        <div className="host-row">
          <span className="mono">{host.name}</span>
          <span>{host.state}</span>
          <span>
            blend {host.blend} {dye(host.dye).letters}
          </span>
          <span className="number">{host.sessions}</span>
          <span className="quiet">{host.note}</span>
        </div>
      )}
    />
  );
}
