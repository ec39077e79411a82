/** Hosts as a table: filtered by state, blend and site, each with what its agent and its machine say. */
import { Select } from 'antd';
import { useCallback, useDeferredValue, useState } from 'react';
import { hostStates } from '@vatline/core/pool/service-state';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { Host } from '@vatline/contract/pool/host';
import { poolsApi } from '../../api/pools.ts';
import { NameFilter, NoSuchName } from '../../parts/name-filter.tsx';
import { PagedList } from '../../parts/paged-list.tsx';
import { HostRow } from './host-row.tsx';

export const orders = ['name', 'state'] as const;
export type Order = (typeof orders)[number];

const filters = [...hostStates, 'silent'] as const;
export type HostFilter = (typeof filters)[number];

/** A filter from an address; nothing where it names none. */
export function asHostFilter(text: string | null): HostFilter | undefined {
  return filters.find((one) => one === text);
}

interface Props {
  readonly pool: PoolDetail;
  readonly order: Order;
  readonly picked: ReadonlySet<string>;
  /** The filter that it begins with. */
  readonly initialState: HostFilter | undefined;
  /** Must stay the same function, or every row is drawn again. */
  readonly toggle: (name: string) => void;
}

export function HostTable({ pool, order, picked, toggle, initialState }: Props) {
  const [text, setText] = useState('');
  // What was typed is seen at once; what it finds may come a frame later.
  const q = useDeferredValue(text);
  const [state, setState] = useState<HostFilter | undefined>(initialState);
  const [blend, setBlend] = useState<number>();
  const [site, setSite] = useState<string>();
  const list = poolsApi.usePoolHostsInfiniteQuery({
    params: { id: pool.id },
    query: { q, sort: order, ...(state && { state }), ...(blend && { blend }), ...(site && { site }) },
  });
  const row = useCallback(
    (host: Host) => <HostRow host={host} isPicked={picked.has(host.name)} toggle={toggle} />,
    [picked, toggle],
  );
  const sites = [...new Set(pool.places.map((place) => place.site))];
  return (
    <>
      <div className="row">
        <NameFilter value={text} onChange={setText} />
        <Filter<HostFilter> label="State" value={state} options={filters} onChange={setState} />
        <Filter<number>
          label="Blend"
          value={blend}
          options={pool.blends.map((one) => one.number)}
          onChange={setBlend}
        />
        {sites.length > 1 && <Filter<string> label="Site" value={site} options={sites} onChange={setSite} />}
      </div>
      <div className="host-row host-heads" aria-hidden>
        <span />
        <span>Host</span>
        <span>State</span>
        <span>Blend</span>
        <span className="number">Sessions</span>
        <span>Agent</span>
        <span>Up since</span>
        <span className="number">Disk</span>
        <span className="number">a day</span>
      </div>
      <PagedList list={list} rowHeight={29} maxHeight={400} none={<NoSuchName text={q} />} row={row} />
    </>
  );
}

interface FilterProps<T extends string | number> {
  readonly label: string;
  readonly value: T | undefined;
  readonly options: readonly T[];
  onChange(value: T | undefined): void;
}

function Filter<T extends string | number>({ label, value, options, onChange }: FilterProps<T>) {
  return (
    <Select
      allowClear
      aria-label={label}
      placeholder={`any ${label.toLowerCase()}`}
      style={{ width: 130 }}
      value={value ?? null}
      onChange={(next) => onChange(next ?? undefined)}
      options={options.map((one) => ({ value: one, label: String(one) }))}
    />
  );
}
