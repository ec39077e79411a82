/** A region of a provider as a site of one's own: where, what it gives and costs, and its networks. */
import { Button, Input, Select } from 'antd';
import { useState } from 'react';
import { MOST_NETWORKS, type Capacity, type NewSiteBody, type Region } from '@vatline/contract/capacity';
import type { Estate } from '@vatline/contract/estate';
import { machineAddresses, networkFaults, readRange } from '@vatline/core/network-range';
import { estateApi } from '../api/estate.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { Field, ProblemNote } from '../parts/field.tsx';
import { count, plural, size } from '../parts/format.ts';

const beginning: NewSiteBody = {
  provider: '',
  region: '',
  name: '',
  networks: [{ name: 'desks', range: '' }],
};

export function AddSite({ capacity, estate }: { capacity: Capacity; estate: Estate }) {
  const [site, setSite] = useState(beginning);
  const [tried, setTried] = useState(false);
  const [add, adding] = estateApi.useAddSiteMutation();
  const problem = problemOf(adding.error);
  const set = (part: Partial<NewSiteBody>) => {
    adding.reset();
    setSite({ ...site, ...part });
  };
  const there = estate.sites.flatMap((one) =>
    one.networks.map((network) => ({ site: one.name, ...network })),
  );
  const faults = networkFaults(site.networks, there);
  // What is merely empty is a fault only once somebody tried.
  const fault = (path: string, text: string) =>
    (text === '' && !tried ? undefined : faults.find((one) => one.path === path)?.message) ??
    faultAt(problem, path);
  const region = capacity.providers
    .find((one) => one.name === site.provider)
    ?.regions.find((one) => one.name === site.region);
  const setNetwork = (i: number, part: Partial<NewSiteBody['networks'][number]>) =>
    set({ networks: site.networks.map((one, at) => (at === i ? { ...one, ...part } : one)) });
  const press = async () => {
    setTried(true);
    if (faults.length > 0) return;
    const result = await add({ body: site });
    if ('error' in result) return;
    setSite(beginning);
    setTried(false);
  };
  return (
    <section aria-label="Another site">
      <h2>Another site</h2>
      <Field label="Region" fault={faultAt(problem, 'region') ?? faultAt(problem, 'provider')}>
        <RegionPicker
          capacity={capacity}
          value={site.region && `${site.provider}/${site.region}`}
          choose={(provider, chosen) => set({ provider, region: chosen, name: site.name || `${chosen}-1` })}
        />
      </Field>
      {region && <Offer region={region} />}
      <Field label="Name of the site" fault={faultAt(problem, 'name')}>
        <Input value={site.name} onChange={(event) => set({ name: event.target.value })} />
      </Field>
      {site.networks.map((network, i) => (
        <div key={i} className="network-row">
          <Field label={i === 0 ? 'Network' : ''} fault={fault(`networks.${i}.name`, network.name)}>
            <Input
              aria-label={`Name of network ${i + 1}`}
              value={network.name}
              onChange={(event) => setNetwork(i, { name: event.target.value })}
            />
          </Field>
          <Field
            label={i === 0 ? 'Range' : ''}
            fault={fault(`networks.${i}.range`, network.range)}
            hint={roomIn(network.range)}
          >
            <Input
              aria-label={`Range of network ${i + 1}`}
              className="mono"
              placeholder="10.30.4.0/24"
              value={network.range}
              onChange={(event) => setNetwork(i, { range: event.target.value })}
            />
          </Field>
        </div>
      ))}
      <div className="row">
        {site.networks.length < MOST_NETWORKS && (
          <Button size="small" onClick={() => set({ networks: [...site.networks, { name: '', range: '' }] })}>
            Another network
          </Button>
        )}
        {site.networks.length > 1 && (
          <Button size="small" onClick={() => set({ networks: site.networks.slice(0, -1) })}>
            One fewer
          </Button>
        )}
      </div>
      <ProblemNote problem={problem} shown={shownPaths(site)} />
      <Button
        type="primary"
        style={{ marginTop: 12 }}
        loading={adding.isLoading}
        disabled={!region || site.name === ''}
        onClick={() => void press()}
      >
        Add {site.name || 'the site'}
      </Button>
    </section>
  );
}

function roomIn(range: string): string | undefined {
  const read = readRange(range);
  return read.ok ? `room for ${plural(machineAddresses(read.value), 'machine')}` : undefined;
}

function shownPaths({ networks }: NewSiteBody): string[] {
  return [
    'region',
    'provider',
    'name',
    ...networks.flatMap((_one, i) => [`networks.${i}.name`, `networks.${i}.range`]),
  ];
}

interface Picker {
  readonly capacity: Capacity;
  readonly value: string;
  choose(provider: string, region: string): void;
}

function RegionPicker({ capacity, value, choose }: Picker) {
  const coming = (provider: string, region: string) =>
    capacity.requests.some(
      (request) => request.state === 'asked' && request.provider === provider && request.region === region,
    );
  return (
    <Select
      aria-label="Region"
      placeholder="choose a region of a provider"
      value={value || null}
      onChange={(key: string) => {
        const [provider = '', region = ''] = key.split('/');
        choose(provider, region);
      }}
      options={capacity.providers.map((provider) => ({
        label: provider.name,
        title: provider.name,
        options: provider.regions.map((region) => ({
          value: `${provider.name}/${region.name}`,
          disabled: region.site !== null || coming(provider.name, region.name),
          label: `${region.name}, ${provider.name}${region.site ? `: is ${region.site}` : coming(provider.name, region.name) ? ': on the way' : ''}`,
        })),
      }))}
    />
  );
}

function Offer({ region: { quota, milliseconds, sizes, datastores } }: { region: Region }) {
  const cheapest = [...sizes].sort((a, b) => a.pricePerHour - b.pricePerHour)[0];
  const dearest = [...sizes].sort((a, b) => b.pricePerHour - a.pricePerHour)[0];
  return (
    <dl className="facts narrow offer">
      <dt>At first</dt>
      <dd>
        {plural(quota.processors, 'core')}, {size(quota.memoryBytes)}
        {quota.graphics > 0 && `, ${plural(quota.graphics, 'graphics processor')}`}
      </dd>
      <dt>An hour</dt>
      <dd>
        {cheapest?.name} {cheapest?.pricePerHour.toFixed(3)} to {dearest?.name}{' '}
        {dearest?.pricePerHour.toFixed(3)}
      </dd>
      <dt>Datastores</dt>
      <dd>
        {datastores
          .map(
            (store) => `${store.name} ${size(store.capacityBytes)}, ${store.price.toFixed(3)} a GB and month`,
          )
          .join('; ')}
      </dd>
      <dt>Directory</dt>
      <dd>{count(milliseconds)} ms away</dd>
    </dl>
  );
}
