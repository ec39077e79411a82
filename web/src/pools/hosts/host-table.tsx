/** Hosts as a table: filtered by state, blend and site, each with what its agent and its machine say. */
import { Checkbox, Select } from 'antd';
import { useState } from 'react';
import { Link } from 'react-router';
import { dye } from '@vatline/core/dye/dyes';
import { hostStates } from '@vatline/core/pool/service-state';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { Host } from '@vatline/contract/pool/host';
import { poolsApi } from '../../api/pools.ts';
import { relative, size, time } from '../../parts/format.ts';
import { NameFilter, NoSuchName } from '../../parts/name-filter.tsx';
import { PagedList } from '../../parts/paged-list.tsx';
import { useEstateTime } from '../../shell/clock.ts';

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
  pick(names: ReadonlySet<string>): void;
}

export function HostTable({ pool, order, picked, pick, initialState }: Props) {
  const [q, setQ] = useState('');
  const [state, setState] = useState<HostFilter | undefined>(initialState);
  const [blend, setBlend] = useState<number>();
  const [site, setSite] = useState<string>();
  const list = poolsApi.usePoolHostsInfiniteQuery({
    params: { id: pool.id },
    query: { q, sort: order, ...(state && { state }), ...(blend && { blend }), ...(site && { site }) },
  });
  const toggle = (name: string) => {
    const next = new Set(picked);
    if (!next.delete(name)) next.add(name);
    pick(next);
  };
  const sites = [...new Set(pool.places.map((place) => place.site))];
  return (
    <>
      <div className="row">
        <NameFilter value={q} onChange={setQ} />
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
      <PagedList
        list={list}
        rowHeight={29}
        maxHeight={400}
        none={<NoSuchName text={q} />}
        row={(host) => <Row host={host} isPicked={picked.has(host.name)} toggle={() => toggle(host.name)} />}
      />
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

function Row({ host, isPicked, toggle }: { host: Host; isPicked: boolean; toggle: () => void }) {
  const { now, zone } = useEstateTime();
  return (
    <div className="host-row">
      <Checkbox aria-label={`Choose ${host.name}`} checked={isPicked} onChange={toggle} />
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
}
