/** The Access station: see as a person, with the reason for each thing; and who is assigned to what. */
import './access.css';
import { Button, Select } from 'antd';
import { useState } from 'react';
import { useSearchParams } from 'react-router';
import type { Assignment, SeeAs } from '@vatline/contract/access';
import { accessApi } from '../api/access.ts';
import { estateApi } from '../api/estate.ts';
import { poolsApi } from '../api/pools.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { Station } from '../shell/station.tsx';
import { Explain } from '../parts/explain.tsx';
import { Field, ProblemNote } from '../parts/field.tsx';
import { plural } from '../parts/format.ts';
import { PersonChoice } from '../parts/person-choice.tsx';
import { useAllPackages } from '../parts/all-packages.ts';

export function AccessPage() {
  const [search] = useSearchParams();
  const { data: pools = [] } = poolsApi.usePoolsQuery({});
  const { data: assignments = [] } = accessApi.useAssignmentsQuery({});
  const items = pools.map((pool) => {
    const groups = new Set(assignments.filter((row) => row.poolId === pool.id).map((row) => row.group));
    return { to: `/access?pool=${pool.id}`, title: pool.name, mono: true, sub: plural(groups.size, 'group') };
  });
  const pool = pools.find((row) => row.id === search.get('pool'));
  const user = search.get('user');
  return (
    <Station items={items}>
      <div className="bench-columns">
        <section className="work" aria-label="See as">
          <PersonPicker user={user} />
          {user ? (
            <SeeAsPerson account={user} />
          ) : (
            <AssignmentTable
              assignments={pool ? assignments.filter((row) => row.poolId === pool.id) : assignments}
              title={pool ? `Who may use ${pool.name}` : 'Who may use what'}
            />
          )}
        </section>
        <AssignForm poolId={pool?.id} />
      </div>
    </Station>
  );
}

function PersonPicker({ user }: { user: string | null }) {
  const [, setSearch] = useSearchParams();
  return (
    <div className="see-as-picker">
      <span className="quiet">See as</span>
      <PersonChoice
        label="See as"
        value={user}
        onChange={(account) => setSearch(account ? { user: account } : {})}
      />
    </div>
  );
}

function SeeAsPerson({ account }: { account: string }) {
  const { data, error } = accessApi.useSeeAsQuery({ query: { user: account } });
  if (error) return <ProblemNote problem={problemOf(error)} />;
  if (!data) return null;
  const given = data.grants.filter((grant) => grant.given);
  const nearly = data.grants.filter((grant) => !grant.given && (grant.kind === 'app' || given.length === 0));
  const desktops = given.filter((grant) => grant.kind === 'desktop');
  const apps = given.filter((grant) => grant.kind === 'app');
  return (
    <>
      <h1 className="answer">
        {data.user.name} gets {desktops.length === 0 ? 'no desktop' : plural(desktops.length, 'desktop')} and{' '}
        {plural(apps.length, 'app')}.
      </h1>
      <p className="under-answer">
        {data.user.role}, {data.user.branch}; in{' '}
        {data.groups.length === 0 ? 'no group' : data.groups.join(', ')}.
      </p>
      <Grants title="What they see" grants={given} />
      <Grants title="What they do not, and where it breaks" grants={nearly} />
      {data.cycles.map((cycle) => (
        <p key={cycle.join()} className="attention">
          These groups hold one another: {cycle.join(' in ')}
        </p>
      ))}
    </>
  );
}

function Grants({ title, grants }: { title: string; grants: SeeAs['grants'] }) {
  if (grants.length === 0) return null;
  return (
    <>
      <h2 className="section-title">{title}</h2>
      {grants.map((grant) => (
        <section key={`${grant.poolId} ${grant.id}`} className="grant" aria-label={grant.name}>
          <b>{grant.kind === 'desktop' ? `Desktop of ${grant.pool}` : grant.name}</b>
          {grant.kind === 'app' && <span className="quiet"> on {grant.pool}</span>}
          {grant.entryPoints.length > 0 && (
            <span className="quiet">
              , opens as {grant.entryPoints.map((entry) => entry.name).join(', ')}
            </span>
          )}
          <Explain chain={grant.chain} />
        </section>
      ))}
    </>
  );
}

function AssignmentTable({ assignments, title }: { assignments: readonly Assignment[]; title: string }) {
  const [remove, { error }] = accessApi.useUnassignMutation();
  return (
    <>
      <h1 className="answer">{title}</h1>
      <p className="under-answer">
        {plural(assignments.length, 'assignment')}. A desktop comes with its pool; an app needs the desktop,
        an attached live package, and an assignment.
      </p>
      <ProblemNote problem={problemOf(error)} />
      <table className="table">
        <thead>
          <tr>
            <th>Pool</th>
            <th>What</th>
            <th>Group</th>
            <th className="number">People</th>
            <th>
              <span className="sr-only">Action</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {assignments.map((row) => (
            <tr key={row.id}>
              <td className="mono">{row.pool}</td>
              <td>{row.target.kind === 'desktop' ? <b>the desktop</b> : row.target.name}</td>
              <td>{row.group}</td>
              <td className="number">{row.users.toLocaleString('en-GB')}</td>
              <td>
                <button
                  type="button"
                  className="plain-button"
                  aria-label={`take away ${row.target.kind === 'desktop' ? 'the desktop' : row.target.name} of ${row.pool} from ${row.group}`}
                  onClick={() => void remove({ params: { id: row.id } })}
                >
                  take away
                </button>
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {assignments.length === 0 && (
        <p className="quiet">Nobody is assigned here yet. Choose a group on the right.</p>
      )}
    </>
  );
}

function AssignForm({ poolId }: { poolId: string | undefined }) {
  const { data: pools = [] } = poolsApi.usePoolsQuery({});
  const { data: groups = [] } = estateApi.useGroupsQuery({});
  const packages = useAllPackages() ?? [];
  const [group, setGroup] = useState('');
  const [pool, setPool] = useState<string | undefined>();
  const [packageId, setPackageId] = useState<string | null>(null);
  const [assign, { error, isLoading }] = accessApi.useAssignMutation();
  const problem = problemOf(error);
  const chosen = pool ?? poolId ?? '';
  const attached = new Set(pools.find((row) => row.id === chosen)?.blend?.packages.map((row) => row.name));
  return (
    <aside className="evidence" aria-label="Assign a group">
      <h2>Assign a group</h2>
      <Field label="Group" fault={faultAt(problem, 'group')}>
        <Select
          showSearch
          aria-label="Group"
          placeholder="choose a group"
          value={group || null}
          onChange={(name) => setGroup(name ?? '')}
          options={groups.map((row) => ({ value: row.name, label: `${row.name}, ${row.users} people` }))}
        />
      </Field>
      <Field label="Pool" fault={faultAt(problem, 'poolId')}>
        <Select
          aria-label="Pool"
          placeholder="choose a pool"
          value={chosen || null}
          onChange={(id) => setPool(id ?? undefined)}
          options={pools.map((row) => ({ value: row.id, label: row.name }))}
        />
      </Field>
      <Field label="To" fault={faultAt(problem, 'target.id')}>
        <Select
          showSearch
          optionFilterProp="label"
          aria-label="To"
          value={packageId ?? 'desktop'}
          onChange={(id) => setPackageId(id === 'desktop' ? null : id)}
          options={[
            { value: 'desktop', label: 'the desktop' },
            ...packages
              .filter((row) => row.versions.length > 0)
              .map((row) => ({
                value: row.id,
                label: attached.has(row.name) ? row.name : `${row.name} (not attached there)`,
              })),
          ]}
        />
      </Field>
      <ProblemNote problem={problem} shown={['group', 'poolId', 'target.id']} />
      <Button
        type="primary"
        loading={isLoading}
        onClick={() =>
          void assign({
            body: {
              group,
              poolId: chosen,
              target: packageId === null ? { kind: 'desktop' } : { kind: 'package', id: packageId },
            },
          })
        }
      >
        Assign
      </Button>
    </aside>
  );
}
