/** What changes: for a pool, a group or a person, on a date, from everything that is planned. */
import '../rollouts.css';
import './ahead.css';
import { Button, Input, Segmented, Select } from 'antd';
import { Link, useNavigate, useSearchParams } from 'react-router';
import {
  aheadKinds,
  type Ahead,
  type AheadKind,
  type ChangeAhead,
  type PoolAhead,
} from '@vatline/contract/ahead';
import { aheadApi } from '../../api/ahead.ts';
import { estateApi } from '../../api/estate.ts';
import { poolsApi } from '../../api/pools.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { How } from '../../parts/how.tsx';
import { plural } from '../../parts/format.ts';
import { PersonChoice } from '../../parts/person-choice.tsx';
import { useEstateTime } from '../../shell/clock.ts';
import { Station } from '../../shell/station.tsx';
import { useRolloutRack } from '../rollout-rack.tsx';
import { aheadInWords, packageInWords, poolThen, whenInWords } from './ahead-in-words.ts';
import { atOf, nextMonday, wallOf } from './asked-moment.ts';
import { DyeRibbon } from './dye-ribbon.tsx';

export function AheadPage() {
  const navigate = useNavigate();
  const items = useRolloutRack();
  const { now } = useEstateTime();
  return (
    <Station
      items={items ?? []}
      action={<Button onClick={() => void navigate('/rollouts/new')}>Plan a rollout</Button>}
    >
      {now > 0 && <WhatChanges />}
    </Station>
  );
}

function WhatChanges() {
  const { now, zone } = useEstateTime();
  const [search, setSearch] = useSearchParams();
  const { data: pools } = poolsApi.usePoolsQuery({});
  const of = aheadKinds.find((kind) => kind === search.get('of')) ?? 'pool';
  const who = search.get('who') ?? (of === 'pool' ? (pools?.[0]?.id ?? '') : '');
  const wall = search.get('at') ?? wallOf(nextMonday(now, zone), zone);
  const at = atOf(wall, zone);
  const set = (change: Record<string, string>) =>
    setSearch({ of, ...(search.get('who') && { who }), at: wall, ...change }, { replace: true });
  const asked = { of, who, at: at ?? now };
  const { currentData: ahead, error } = aheadApi.useAheadQuery(
    { query: asked },
    { skip: who === '' || at === undefined },
  );
  const problem = problemOf(error);
  return (
    <section className="work" aria-label="What changes">
      <div className="ahead-asked">
        <Segmented<AheadKind>
          aria-label="For"
          value={of}
          options={[
            { value: 'pool', label: 'A pool' },
            { value: 'group', label: 'A group' },
            { value: 'person', label: 'A person' },
          ]}
          onChange={(kind) => setSearch({ of: kind, at: wall }, { replace: true })}
        />
        <Field label="For whom" fault={faultAt(problem, 'who')}>
          <Whom of={of} who={who} onChange={(id) => set({ who: id })} />
        </Field>
        <Field
          label={`When, in ${zone}`}
          fault={at === undefined ? 'is no date with a time' : faultAt(problem, 'at')}
        >
          <Input
            type="datetime-local"
            aria-label="When"
            value={wall}
            onChange={({ target }) => set({ at: target.value })}
          />
        </Field>
      </div>
      {problem?.faults.length === 0 && <ProblemNote problem={problem} />}
      {ahead && <Answer ahead={ahead} />}
      {!ahead && !error && who === '' && (
        <p className="quiet">
          Choose {of === 'person' ? 'a person' : 'a group'} to see what is another for them.
        </p>
      )}
    </section>
  );
}

interface WhomProps {
  readonly of: AheadKind;
  readonly who: string;
  readonly onChange: (id: string) => void;
}

function Whom({ of, who, onChange }: WhomProps) {
  const { data: pools = [] } = poolsApi.usePoolsQuery({}, { skip: of !== 'pool' });
  const { data: groups = [] } = estateApi.useGroupsQuery({}, { skip: of !== 'group' });
  if (of === 'person')
    return (
      <PersonChoice label="For whom" value={who === '' ? null : who} onChange={(id) => onChange(id ?? '')} />
    );
  const options =
    of === 'pool'
      ? pools.map(({ id, name }) => ({ value: id, label: name }))
      : groups.map(({ name, users }) => ({
          value: name,
          label: `${name}, ${plural(users, 'person', 'people')}`,
        }));
  return (
    <Select
      showSearch={{ optionFilterProp: 'label' }}
      aria-label="For whom"
      placeholder={of === 'pool' ? 'a pool' : 'a group'}
      style={{ width: 340 }}
      value={who === '' ? null : who}
      options={options}
      onChange={onChange}
    />
  );
}

function Answer({ ahead }: { readonly ahead: Ahead }) {
  const { zone } = useEstateTime();
  return (
    <>
      <h1 className="answer">{aheadInWords(ahead, zone)}</h1>
      <p className="under-answer">
        From rollouts under way, rings that wait, and what schedules will cut.{' '}
        <How
          rows={[
            ['Done', 'when 9 in 10 simulations of what is left have the last host done by then'],
            ['Under way', 'some hosts may have changed, and some not'],
            ['Yet to be cut', 'a schedule cuts the version before then; nobody can know what is in it'],
            ['Of a group or a person', 'pools that are theirs to use, and packages that they may open there'],
          ]}
        />
      </p>
      {ahead.pools.map((pool) => (
        <PoolBlock key={pool.poolId} pool={pool} ahead={ahead} />
      ))}
    </>
  );
}

const thenInWords = {
  changed: 'has changed by then',
  'under way': 'being changed then',
  'the same': 'as it is now',
} as const;

function PoolBlock({ pool, ahead }: { readonly pool: PoolAhead; readonly ahead: Ahead }) {
  const then = poolThen(pool);
  return (
    <section className="ahead-pool" aria-label={pool.pool}>
      <div className="ahead-head">
        <Link className="mono" to={`/pools/${pool.poolId}`}>
          {pool.pool}
        </Link>
        <span className={then === 'the same' ? 'quiet' : 'attention'}>{thenInWords[then]}</span>
        <span className="quiet small">
          {plural(pool.hosts, 'host')}
          {pool.through.length > 0 && `; theirs by ${pool.through.join(' in ')}`}
          {!pool.hasDesktop && '; its desktop is not theirs, so nothing can be opened there'}
        </span>
      </div>
      <DyeRibbon pool={pool} at={ahead.at} />
      {pool.changes.map((change) => (
        <ChangeRow
          key={`${change.to} ${change.title}`}
          change={change}
          pool={pool}
          isPool={ahead.of === 'pool'}
        />
      ))}
      {pool.changes.length === 0 && <p className="quiet small">Nothing is planned for it until then.</p>}
    </section>
  );
}

const standings = { done: 'done by then', 'under way': 'under way then', later: 'later' } as const;

interface ChangeProps {
  readonly change: ChangeAhead;
  readonly pool: PoolAhead;
  readonly isPool: boolean;
}

function ChangeRow({ change, pool, isPool }: ChangeProps) {
  const { zone } = useEstateTime();
  const { title, to, standing, difference, hosts, isWhole } = change;
  return (
    <div className="ahead-change">
      <span className={`ahead-standing ${standing.replace(' ', '-')}`}>{standings[standing]}</span>
      <span>
        <Link to={to}>{title}</Link>
        <span className="quiet small">
          {whenInWords(change, zone)}
          {(!isWhole || hosts < pool.hosts) && `; ${hosts} of ${plural(pool.hosts, 'host')}`}
        </span>
      </span>
      <span>
        {difference === null ? (
          <span className="quiet">a version that is yet to be cut</span>
        ) : (
          <Difference difference={difference} isPool={isPool} />
        )}
      </span>
    </div>
  );
}

interface DifferenceProps {
  readonly difference: NonNullable<ChangeAhead['difference']>;
  readonly isPool: boolean;
}

function Difference({ difference: { image, packages, headline }, isPool }: DifferenceProps) {
  if (!image && packages.length === 0)
    return (
      <span className="quiet">{isPool ? headline : `${headline}; nothing of it is theirs to open`}</span>
    );
  return (
    <span className="ahead-difference">
      {image && (
        <span>
          {image.from.line} <DyeChip name={image.from.dye} number={image.from.number} /> to{' '}
          <DyeChip name={image.to.dye} number={image.to.number} />
        </span>
      )}
      {packages.map((one) => (
        <span key={`${one.name} ${one.from ?? ''} ${one.to ?? ''}`}>{packageInWords(one)}</span>
      ))}
    </span>
  );
}
