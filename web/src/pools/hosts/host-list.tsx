/** A pool's hosts as a grid, and as a table one key away; what is chosen in either can be acted on. */
import './hosts.css';
import { Button } from 'antd';
import { useCallback, useMemo, useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import { poolFileEndpoints, type PoolDetail } from '@vatline/contract/pool/endpoints';
import type { Cell } from '@vatline/contract/pool/host';
import { addressOf } from '../../api/base.ts';
import { poolsApi } from '../../api/pools.ts';
import { plural } from '../../parts/format.ts';
import { HostGrid } from '../../parts/host-grid.tsx';
import { rowsOf } from '../../parts/paged-list.tsx';
import { ActionBar } from './action-bar.tsx';
import { HostCard } from './host-card.tsx';
import { asHostFilter, HostTable, orders, type Order } from './host-table.tsx';

export function HostList({ pool, chosen }: { pool: PoolDetail; chosen: string | null }) {
  const [order, setOrder] = useState<Order>('name');
  const [search] = useSearchParams();
  const filter = asHostFilter(search.get('state'));
  const [asTable, setAsTable] = useState(filter !== undefined);
  const [picked, setPicked] = useState<ReadonlySet<string>>(new Set());
  const { data: cells = [] } = poolsApi.useCellsQuery({ params: { id: pool.id } });
  const toggle = useCallback(
    (name: string) =>
      setPicked((before) => {
        const next = new Set(before);
        if (!next.delete(name)) next.add(name);
        return next;
      }),
    [],
  );
  if (pool.hosts === 0) return null;
  const pickAll = () => setPicked(new Set(cells.map((cell) => cell.name)));
  return (
    <>
      <div className="row host-list-head">
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
        <span className="spring" />
        <Button size="small" onClick={pickAll}>
          Choose all
        </Button>
        <Button size="small" href={`/api/v1${addressOf(poolFileEndpoints.hosts, { id: pool.id })}`}>
          Take as CSV
        </Button>
      </div>
      {picked.size > 0 && <ActionBar pool={pool} names={[...picked]} done={() => setPicked(new Set())} />}
      {asTable ? (
        <HostTable
          key={filter ?? ''}
          pool={pool}
          order={order}
          picked={picked}
          toggle={toggle}
          initialState={filter}
        />
      ) : (
        <PoolGrid pool={pool} cells={cells} order={order} />
      )}
      {chosen !== null && (
        <ChosenHost key={chosen} pool={pool} name={chosen} pick={() => setPicked(new Set([chosen]))} />
      )}
    </>
  );
}

function PoolGrid({ pool, cells, order }: { pool: PoolDetail; cells: readonly Cell[]; order: Order }) {
  const navigate = useNavigate();
  const ordered = useMemo(() => (order === 'name' ? cells : [...cells].sort(byState)), [cells, order]);
  return (
    <HostGrid
      cells={ordered}
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

function ChosenHost({ pool, name, pick }: { pool: PoolDetail; name: string; pick: () => void }) {
  const list = poolsApi.usePoolHostsInfiniteQuery({ params: { id: pool.id }, query: { q: name } });
  const host = rowsOf(list).find((row) => row.name === name);
  return host ? <HostCard host={host} pool={pool} pick={pick} /> : null;
}
