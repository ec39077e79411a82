/** Physical machines: what stands in each chassis, looking through one, and making hosts of what was found. */
import './chassis.css';
import { Button } from 'antd';
import { useState } from 'react';
import { useNavigate, useSearchParams } from 'react-router';
import type { ChassisShown } from '@vatline/contract/chassis';
import { isFree } from '@vatline/core/pool/chassis';
import { chassisApi } from '../../api/chassis.ts';
import { estateApi } from '../../api/estate.ts';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { Chips } from '../../parts/chips.tsx';
import { ProblemNote } from '../../parts/field.tsx';
import { moment, plural, size } from '../../parts/format.ts';
import { useEstateTime } from '../../shell/clock.ts';
import { Station } from '../../shell/station.tsx';
import { useAppDispatch } from '../../shell/store.ts';
import { poolReplaced } from '../new/pool-draft.ts';
import { usePoolRack } from '../pool-rack.tsx';
import { draftOfMachines } from './draft-of-machines.ts';
import { SlotTable, standingOf } from './slot-table.tsx';

export function ChassisPage() {
  const { items, action } = usePoolRack();
  const { data: all, error } = chassisApi.useChassisQuery({});
  const [search, setSearch] = useSearchParams();
  const open = all?.find((one) => one.name === search.get('chassis')) ?? all?.find(hasWork) ?? all?.[0];
  return (
    <Station items={items} action={action}>
      {open && all ? (
        <OneChassis
          key={open.name}
          chassis={open}
          picker={
            <Chips
              label="Chassis"
              options={all.map(({ name }) => [name, name] as const)}
              chosen={open.name}
              onPress={(name) => setSearch({ chassis: name })}
            />
          }
        />
      ) : (
        <section className="work" aria-label="Chassis">
          {all && <h1 className="answer">The estate has no chassis.</h1>}
          <ProblemNote problem={problemOf(error)} />
        </section>
      )}
    </Station>
  );
}

/** One in which something is not a host yet. */
function hasWork({ slots }: ChassisShown): boolean {
  return slots.filter((slot) => slot.host === null).length > slots.length / 2;
}

function OneChassis({ chassis, picker }: { chassis: ChassisShown; picker: React.ReactNode }) {
  const { zone } = useEstateTime();
  const [wanted, choose] = useState<number[]>([]);
  // What somebody else took meanwhile is not chosen any more.
  const free = new Set(chassis.slots.filter(isFree).map((slot) => slot.slot));
  const chosen = wanted.filter((slot) => free.has(slot));
  return (
    <div className="bench-columns chassis">
      <section className="work" aria-label={`Chassis ${chassis.name}`}>
        <h1 className="answer">{headline(chassis, free.size)}</h1>
        <p className="under-answer">
          {standingOf(chassis)}
          {lookedInWords(chassis, zone)}
        </p>
        {picker}
        <Looking chassis={chassis} />
        <SlotTable chassis={chassis} chosen={chosen} choose={choose} />
      </section>
      <aside className="evidence" aria-label="What to make of them">
        <Making chassis={chassis} chosen={chosen} />
      </aside>
    </div>
  );
}

function lookedInWords({ site, asked, lookedAt }: ChassisShown, zone: string): string {
  if (lookedAt === null) return `It is on site ${site}, and nobody has looked through it yet.`;
  return `On site ${site}, ${asked === null ? 'looked through' : 'being looked through since'} ${moment(lookedAt, zone)}.`;
}

function headline(chassis: ChassisShown, free: number): string {
  const { name, slots, asked, lookedAt } = chassis;
  if (asked !== null) return `Looking through ${name}: ${asked} of ${slots.length} slots asked.`;
  if (lookedAt === null) return `Nobody knows yet what stands in ${name}; look through it.`;
  return free === 0
    ? `No machine of ${name} is free.`
    : `${plural(free, 'machine')} of ${name} ${free === 1 ? 'is' : 'are'} free to become ${free === 1 ? 'a host' : 'hosts'}.`;
}

function Looking({ chassis: { name, slots, asked, lookedAt, trouble } }: { chassis: ChassisShown }) {
  const [look, looking] = chassisApi.useLookThroughMutation();
  const [stop, stopping] = chassisApi.useStopLookingMutation();
  const params = { params: { name } };
  return (
    <>
      {asked === null ? (
        <Button
          type={lookedAt === null ? 'primary' : 'default'}
          loading={looking.isLoading}
          onClick={() => void look(params)}
        >
          {lookedAt === null ? `Look through ${name}` : 'Look through it again'}
        </Button>
      ) : (
        <div className="row looking">
          <div className="progress" aria-label={`${asked} of ${slots.length} slots asked`}>
            <i style={{ width: `${(asked / Math.max(1, slots.length)) * 100}%` }} />
          </div>
          <Button loading={stopping.isLoading} onClick={() => void stop(params)}>
            Stop
          </Button>
        </div>
      )}
      {asked === null && trouble !== '' && (
        <p className="field-fault" role="alert">
          It was not looked through whole: {trouble}. Slots that were not reached stay as they were known.
        </p>
      )}
      <ProblemNote problem={problemOf(looking.error)} />
      <ProblemNote problem={problemOf(stopping.error)} />
    </>
  );
}

function Making({ chassis, chosen }: { chassis: ChassisShown; chosen: readonly number[] }) {
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const { data: estate } = estateApi.useEstateQuery({});
  const { data: streaming } = poolsApi.useStreamingQuery({});
  const machines = chassis.slots.filter((slot) => chosen.includes(slot.slot));
  const owners = [...new Map(chassis.slots.flatMap(({ pool }) => (pool ? [[pool.id, pool]] : []))).values()];
  const make = () => {
    const site = estate?.sites.find((one) => one.name === chassis.site);
    const store = streaming?.stores.find((one) => one.site === chassis.site) ?? streaming?.stores[0];
    dispatch(poolReplaced(draftOfMachines({ chassis, slots: chosen, site, store })));
    void navigate('/pools/new');
  };
  const n = machines.length;
  return (
    <>
      <h2>What to make of them</h2>
      {n === 0 ? (
        <p className="quiet">
          Choose machines that are free. They get names, addresses and computer accounts, and stream their
          image; power and everything else is done to them as to any other host.
        </p>
      ) : (
        <>
          <p>
            {plural(n, 'machine')} with {machines.reduce((sum, one) => sum + one.processors, 0)} cores and{' '}
            {size(machines.reduce((sum, one) => sum + one.memoryBytes, 0))} of memory together.
          </p>
          <div className="column-buttons">
            <Button type="primary" onClick={make}>
              Make a pool of {n === 1 ? 'it' : `the ${n}`}
            </Button>
            {owners.map((pool) => (
              <Button
                key={pool.id}
                onClick={() => void navigate(`/pools/${pool.id}/more?slots=${chosen.join(',')}`)}
              >
                Add {n === 1 ? 'it' : 'them'} to {pool.name}
              </Button>
            ))}
          </div>
        </>
      )}
    </>
  );
}
