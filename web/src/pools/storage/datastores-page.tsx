/** Datastores: how full each is, what was promised of it, who takes how much, and when it may be full. */
import './storage.css';
import { useMemo } from 'react';
import { Link, useSearchParams } from 'react-router';
import { commitmentOf } from '@vatline/core/pool/datastore-use';
import type { Growth } from '@vatline/core/pool/storage-risk';
import type { Datastore } from '@vatline/contract/pool/datastore';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { Station } from '../../shell/station.tsx';
import { ProblemNote } from '../../parts/field.tsx';
import { count, percent, plural, size } from '../../parts/format.ts';
import { How } from '../../parts/how.tsx';
import { usePoolRack } from '../pool-rack.tsx';
import { FillingChart } from './filling-chart.tsx';
import type { FillingQuestion } from './filling-worker.ts';
import { useFilling } from './use-filling.ts';

const nameOf = ({ site, name }: Datastore) => `${site}/${name}`;

export function DatastoresPage() {
  const { items, action, pools } = usePoolRack();
  const { data, error } = poolsApi.useDatastoresQuery({});
  const [search, setSearch] = useSearchParams();
  const stores = data?.datastores ?? [];
  const fullest = [...stores].sort((a, b) => shareOf(b) - shareOf(a))[0];
  const chosen = stores.find((store) => nameOf(store) === search.get('store')) ?? fullest;
  return (
    <Station items={items} action={action}>
      <div className="bench-columns datastores">
        <section className="work" aria-label="Datastores">
          {data && <h1 className="answer">{headline(stores, fullest)}</h1>}
          <p className="under-answer">
            Promised is what all hosts may come to take until their next rebuild. Where more is promised than
            is there, the datastore is over-committed.
          </p>
          <ProblemNote problem={problemOf(error)} />
          <StoreTable
            stores={stores}
            chosen={chosen}
            choose={(store) => setSearch({ store: nameOf(store) })}
          />
          {chosen && data && <Filling key={nameOf(chosen)} store={chosen} growth={data.growth} />}
        </section>
        <aside className="evidence" aria-label="Who takes how much">
          {chosen && <Uses store={chosen} poolIds={new Map(pools?.map((pool) => [pool.name, pool.id]))} />}
        </aside>
      </div>
    </Station>
  );
}

function shareOf({ usedBytes, capacityBytes }: Datastore): number {
  return usedBytes / Math.max(1, capacityBytes);
}

function headline(stores: readonly Datastore[], fullest: Datastore | undefined): string {
  if (!fullest) return 'There is no datastore.';
  const beyond = stores.filter((store) => commitment(store) === 'beyond');
  const full = `the fullest is ${fullest.name} of ${fullest.site}, with ${percent(shareOf(fullest))} used`;
  return beyond.length > 0
    ? `${plural(beyond.length, 'datastore')} promised more than allowed; ${full}.`
    : `No datastore promised more than it may; ${full}.`;
}

function commitment({ promisedBytes, capacityBytes, overcommit }: Datastore) {
  return commitmentOf(promisedBytes, capacityBytes, overcommit);
}

interface Table {
  readonly stores: readonly Datastore[];
  readonly chosen: Datastore | undefined;
  choose(store: Datastore): void;
}

function StoreTable({ stores, chosen, choose }: Table) {
  return (
    <table className="table store-table">
      <thead>
        <tr>
          <th>Datastore</th>
          <th className="number">Used</th>
          <th className="number">Promised</th>
          <th className="number">There</th>
          <th className="number">Committed</th>
          <th className="number">Operations/s</th>
          <th className="number">A month</th>
        </tr>
      </thead>
      <tbody>
        {stores.map((store) => (
          <tr key={nameOf(store)} className={store === chosen ? 'chosen' : ''}>
            <td>
              <button
                type="button"
                className="plain-button"
                aria-pressed={store === chosen}
                onClick={() => choose(store)}
              >
                {store.site} {store.name}
              </button>
            </td>
            <td className="number" title={`${count(store.usedBytes)} bytes`}>
              {size(store.usedBytes)}
            </td>
            <td className="number">{size(store.promisedBytes)}</td>
            <td className="number">{size(store.capacityBytes)}</td>
            <td className={commitment(store) === 'beyond' ? 'number trouble' : 'number'}>
              {percent(store.promisedBytes / store.capacityBytes)}{' '}
              <span className="quiet">of {percent(store.overcommit)}</span>
            </td>
            <td className="number">
              {count(store.operations.used)} <span className="quiet">of {count(store.operations.total)}</span>
            </td>
            <td className="number">{((store.usedBytes / 1e9) * store.price).toFixed(2)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** A month is what most hosts live; beyond it all were rebuilt. */
const DAYS = 60;

function Filling({ store, growth }: { store: Datastore; growth: Growth }) {
  const question = useMemo((): FillingQuestion | undefined => {
    if (store.growingHosts === 0) return undefined;
    const { name, capacityBytes, usedBytes, overcommit, growingHosts } = store;
    return {
      // What is there is used already; only growth comes on top.
      input: {
        hosts: growingHosts,
        imageBytes: 0,
        swapBytes: 0,
        dataBytes: 0,
        throwawayBytes: 0,
        scratchBytes: 0,
        streamingStores: 0,
        growthBytesPerDay: growth.medianBytesPerDay,
        days: DAYS,
        datastores: [{ name, capacityBytes, usedBytes, overcommit }],
      },
      growth,
      kinds: ['full'],
      shown: 'full',
      lastDay: DAYS,
    };
  }, [store, growth]);
  const filling = useFilling(question);
  const chance = filling?.days.at(-1)?.chance;
  return (
    <section aria-label="When it may be full">
      <h2 className="section-title">
        {store.site} {store.name}, if nothing was rebuilt
      </h2>
      <p>
        {store.growingHosts === 0
          ? 'No host on it grows from day to day.'
          : chance === undefined
            ? 'Drawing how it fills …'
            : `${plural(store.growingHosts, 'host')} on it ${store.growingHosts === 1 ? 'grows' : 'grow'}; in ${DAYS} days it is full with a chance of ${percent(chance)}.`}{' '}
        <How
          rows={[
            [
              'Growth',
              `half of the hosts by over ${size(growth.medianBytesPerDay)} a day, one of ten by over ${size(growth.p90BytesPerDay)}`,
            ],
            [
              'Chance',
              'share of 2,000 draws in which it is full by that day, each host with one daily growth',
            ],
          ]}
        />
      </p>
      {filling && store.growingHosts > 0 && (
        <FillingChart
          days={filling.days}
          capacityBytes={store.capacityBytes}
          name={store.name}
          daysFrom="days from now"
        />
      )}
      <p className="quiet">{commitmentInWords(store)}</p>
    </section>
  );
}

function commitmentInWords(store: Datastore): string {
  const { promisedBytes, capacityBytes, overcommit } = store;
  if (commitment(store) === 'within')
    return `All that was promised has room: ${size(capacityBytes - promisedBytes)} would be left.`;
  const short = size(promisedBytes - capacityBytes);
  return commitment(store) === 'over'
    ? `If all took what they were promised, ${short} would find no room. That is allowed here up to ${overcommit} times what is there.`
    : `If all took what they were promised, ${short} would find no room, which is more than ${overcommit} times what is there allows.`;
}

function Uses({ store, poolIds }: { store: Datastore; poolIds: ReadonlyMap<string, string> }) {
  return (
    <>
      <h2>
        Who takes how much of {store.site} {store.name}
      </h2>
      <p className="quiet">
        {plural(
          store.uses.reduce((sum, use) => sum + use.disks, 0),
          'disk',
        )}
        , {size(store.usedBytes)}
      </p>
      {store.uses.map((use) => (
        <div key={`${use.kind} ${use.name}`} className="use">
          <div className="spread">
            <span>
              {use.kind === 'pool' ? (
                <Link to={`/pools/${poolIds.get(use.name) ?? ''}`}>{use.name}</Link>
              ) : use.kind === 'parent' ? (
                `parent ${use.name}`
              ) : use.kind === 'build machine' ? (
                `build machine of ${use.name}`
              ) : (
                'what Vat Line knows nothing of'
              )}
            </span>
            <span className="number">
              {size(use.bytes)} <span className="quiet">{plural(use.disks, 'disk')}</span>
            </span>
          </div>
          <div className="share-bar">
            <i style={{ width: `${(use.bytes / Math.max(1, store.usedBytes)) * 100}%` }} />
          </div>
        </div>
      ))}
      {store.uses.length === 0 && <p className="quiet">Nobody; it is empty.</p>}
    </>
  );
}
