/** A pool's hosts as a grid, and as a table one key away. */
import { useMemo, useState } from 'react';
import { useNavigate } from 'react-router';
import { dye } from '@vatline/core/dye/dyes';
import type { Cell, Host } from '@vatline/contract/pool/host';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import { poolsApi } from '../api/pools.ts';
import { plural } from '../parts/format.ts';
import { HostGrid } from '../parts/host-grid.tsx';
import { NameFilter, NoSuchName } from '../parts/name-filter.tsx';
import { PagedList, rowsOf } from '../parts/paged-list.tsx';
import { HostMounts } from './host-mounts.tsx';
import { HostDisks } from './storage/host-disks.tsx';

const orders = ['name', 'state'] as const;
type Order = (typeof orders)[number];

export function HostList({ pool, chosen }: { pool: PoolDetail; chosen: string | null }) {
  const [order, setOrder] = useState<Order>('name');
  const [asTable, setAsTable] = useState(false);
  if (pool.hosts === 0) return null;
  return (
    <>
      <div className="row" style={{ margin: '4px 0 8px' }}>
        <span className="quiet">Hosts by</span>
        {orders.map((own) => (
          <button
            key={own}
            type="button"
            className="plain-button"
            aria-pressed={order === own}
            onClick={() => setOrder(own)}
          >
            {own}
          </button>
        ))}
        <button
          type="button"
          className="plain-button"
          aria-pressed={asTable}
          onClick={() => setAsTable(!asTable)}
        >
          as a table
        </button>
      </div>
      {asTable ? <HostTable pool={pool} order={order} /> : <PoolGrid pool={pool} order={order} />}
      {chosen !== null && <ChosenHost key={chosen} pool={pool} name={chosen} />}
    </>
  );
}

interface Ordered {
  readonly pool: PoolDetail;
  readonly order: Order;
}

function PoolGrid({ pool, order }: Ordered) {
  const navigate = useNavigate();
  const { data } = poolsApi.useCellsQuery({ params: { id: pool.id } });
  const cells = useMemo(
    () => (order === 'name' ? (data ?? []) : [...(data ?? [])].sort(byState)),
    [data, order],
  );
  return (
    <HostGrid
      cells={cells}
      cellSize={24}
      maxHeight={360}
      label={`${pool.name}: ${plural(pool.hosts, 'host')}`}
      onOpen={(cell) => void navigate(`?host=${cell.name}`, { replace: true })}
    />
  );
}

/** Hosts of one state stand together, and in it those of one dye. */
function byState(a: Cell, b: Cell): number {
  return a.state.localeCompare(b.state) || a.dye.localeCompare(b.dye);
}

function HostTable({ pool, order }: Ordered) {
  const [q, setQ] = useState('');
  const list = poolsApi.usePoolHostsInfiniteQuery({ params: { id: pool.id }, query: { q, sort: order } });
  return (
    <>
      <NameFilter value={q} onChange={setQ} />
      <PagedList
        list={list}
        rowHeight={29}
        maxHeight={400}
        none={<NoSuchName text={q} />}
        row={(host) => (
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
    </>
  );
}

function ChosenHost({ pool, name }: { pool: PoolDetail; name: string }) {
  const list = poolsApi.usePoolHostsInfiniteQuery({ params: { id: pool.id }, query: { q: name } });
  const host = rowsOf(list).find((row) => row.name === name);
  return host ? <HostCard host={host} limit={pool.sessionLimit} /> : null;
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
      <HostDisks name={host.name} />
    </section>
  );
}
