/** Capacity: what each thing of the estate is used by and costs, and how to get more of it. */
import './estate.css';
import type { Capacity } from '@vatline/contract/capacity';
import type { Estate } from '@vatline/contract/estate';
import { chassisApi } from '../api/chassis.ts';
import { estateApi } from '../api/estate.ts';
import { poolsApi } from '../api/pools.ts';
import { problemOf } from '../api/problem.ts';
import { ProblemNote } from '../parts/field.tsx';
import { count, plural, size } from '../parts/format.ts';
import { AddSite } from './add-site.tsx';
import { AskMore } from './ask-more.tsx';
import { AskedFor } from './asked-for.tsx';
import { UsedBy } from './used-by.tsx';

export function CapacityPage() {
  const { data: estate, error } = estateApi.useEstateQuery({});
  const { data: capacity, error: unread } = estateApi.useCapacityQuery({});
  const problem = problemOf(error) ?? problemOf(unread);
  if (problem) return <ProblemNote problem={problem} />;
  if (!estate || !capacity) return null;
  return (
    <div className="bench bench-columns capacity">
      <section className="work" aria-label="Capacity">
        <h1 className="answer">{headline(estate, capacity)}</h1>
        <p className="under-answer">
          What a pool can still have is worked out on its bench; here is what there is, what uses it and what
          it costs, and where more comes from.
        </p>
        <AskedFor requests={capacity.requests} />
        <Networks estate={estate} uses={capacity.uses} />
        <Sizes estate={estate} uses={capacity.uses} />
        <Others estate={estate} uses={capacity.uses} />
      </section>
      <aside className="evidence" aria-label="More of it">
        <AddSite capacity={capacity} estate={estate} />
        <AskMore estate={estate} />
      </aside>
    </div>
  );
}

function headline({ sites }: Estate, { providers, requests }: Capacity): string {
  const freeRegions = providers
    .flatMap((provider) => provider.regions)
    .filter((region) => region.site === null);
  const coming = requests.filter((request) => request.state === 'asked').length;
  const cores = sites
    .filter((site) => site.sizes.length > 0)
    .reduce((sum, site) => sum + site.cores.total - site.cores.used, 0);
  const more =
    coming > 0
      ? `${plural(coming, 'site')} on the way`
      : `${plural(freeRegions.length, 'region')} could be taken`;
  return `${plural(cores, 'core')} free on ${plural(sites.filter((site) => site.sizes.length > 0).length, 'site')}; ${more}.`;
}

interface Used {
  readonly estate: Estate;
  readonly uses: Capacity['uses'];
}

function Networks({ estate, uses }: Used) {
  return (
    <>
      <h2 className="section-title">Sites and networks</h2>
      <table className="table estate-table">
        <thead>
          <tr>
            <th>Site</th>
            <th>Network</th>
            <th>Range</th>
            <th className="number">Addresses free</th>
            <th>Used by</th>
          </tr>
        </thead>
        <tbody>
          {estate.sites.flatMap((site) =>
            site.networks.map((network, i) => (
              <tr key={`${site.name} ${network.name}`}>
                <td className="mono strong">{i === 0 && site.name}</td>
                <td>{network.name}</td>
                <td className="mono">{network.range}</td>
                <td className="number">
                  {count(network.addresses.total - network.addresses.used)}{' '}
                  <span className="quiet">of {count(network.addresses.total)}</span>
                </td>
                <td>
                  <UsedBy uses={uses} what="network" site={site.name} name={network.name} />
                </td>
              </tr>
            )),
          )}
        </tbody>
      </table>
    </>
  );
}

/** What machines can be made in, at the price of each site that offers it. */
function Sizes({ estate, uses }: Used) {
  const sizes = new Map(estate.sites.flatMap((site) => site.sizes).map((one) => [one.name, one]));
  const prices = (name: string) =>
    estate.sites
      .flatMap((site) =>
        site.sizes.flatMap((one) => (one.name === name ? [`${site.name} ${price(one.pricePerHour)}`] : [])),
      )
      .join(', ');
  return (
    <>
      <h2 className="section-title">Machine sizes</h2>
      <table className="table estate-table">
        <thead>
          <tr>
            <th>Size</th>
            <th className="number">Cores</th>
            <th className="number">Memory</th>
            <th>An hour</th>
            <th>Used by</th>
          </tr>
        </thead>
        <tbody>
          {[...sizes.values()].map((one) => (
            <tr key={one.name}>
              <td className="mono strong">{one.name}</td>
              <td className="number">
                {one.processors}
                {one.graphics > 0 && <span className="quiet"> and graphics</span>}
              </td>
              <td className="number">{size(one.memoryBytes)}</td>
              <td>{prices(one.name)}</td>
              <td>
                <UsedBy uses={uses} what="size" name={one.name} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

/** Prices of sizes differ in the third place after the point. */
function price(amount: number): string {
  return amount.toFixed(3).replace(/0$/, '');
}

function Others({ estate, uses }: Used) {
  const { data: streaming } = poolsApi.useStreamingQuery({});
  const { data: chassis = [] } = chassisApi.useChassisQuery({});
  return (
    <>
      <h2 className="section-title">Licences, streaming stores and chassis</h2>
      <table className="table estate-table">
        <tbody>
          {estate.licences.map((key) => (
            <tr key={key.name}>
              <td className="mono strong">{key.name}</td>
              <td>multi-use key</td>
              <td>
                {count(key.activations - key.used)} of {plural(key.activations, 'activation')} left
              </td>
              <td>
                <UsedBy uses={uses} what="key" name={key.name} />
              </td>
            </tr>
          ))}
          {streaming?.stores.map((store) => (
            <tr key={store.name}>
              <td className="mono strong">{store.name}</td>
              <td>streaming store on {store.site}</td>
              <td>
                {store.streams.total - store.hosts} of {plural(store.streams.total, 'stream')} left,{' '}
                {size(store.capacityBytes - store.usedBytes)} free
              </td>
              <td>
                <UsedBy uses={uses} what="store" name={store.name} />
              </td>
            </tr>
          ))}
          {chassis.map((one) => (
            <tr key={one.name}>
              <td className="mono strong">{one.name}</td>
              <td>chassis on {one.site}</td>
              <td>
                {one.slots.filter((slot) => slot.host === null).length} of {plural(one.slots.length, 'slot')}{' '}
                without a host
              </td>
              <td>
                <UsedBy uses={uses} what="chassis" name={one.name} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
