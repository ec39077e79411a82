/** The Estate station: the outside systems that ship as stand-ins, how full they are, and faults to practise with. */
import './estate.css';
import { Button, Select } from 'antd';
import { useState } from 'react';
import { callKinds, secretChanges, type Estate } from '@vatline/contract/estate';
import { directoryApi } from '../api/directory.ts';
import { estateApi } from '../api/estate.ts';
import { poolsApi } from '../api/pools.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { useEstateTime } from '../shell/clock.ts';
import { Field, ProblemNote } from '../parts/field.tsx';
import { count, percent, plural, relative, size } from '../parts/format.ts';

export function EstatePage() {
  const { data: estate, error } = estateApi.useEstateQuery({});
  if (error) return <ProblemNote problem={problemOf(error)} />;
  if (!estate) return null;
  return (
    <div className="bench bench-columns">
      <section className="work" aria-label="Estate">
        <h1 className="answer">{headline(estate)}</h1>
        <p className="under-answer">
          A practice estate: it behaves as a real one would, costs nothing, and its clock can be sped up.
        </p>
        <Sites estate={estate} />
        <Shares estate={estate} />
        <Others estate={estate} />
      </section>
      <Faults estate={estate} />
    </div>
  );
}

/** The fullest place is what stops the next batch. */
function headline(estate: Estate): string {
  const share = (site: Estate['sites'][number]) => site.cores.used / Math.max(1, site.cores.total);
  const tightest = [...estate.sites].sort((a, b) => share(b) - share(a))[0];
  if (!tightest) return 'The estate has no sites.';
  return `${tightest.name} is the tightest: ${count(tightest.cores.total - tightest.cores.used)} of ${count(tightest.cores.total)} cores free.`;
}

function Gauge({ used, total }: { used: number; total: number }) {
  const share = total === 0 ? 0 : used / total;
  return (
    <span className="gauge" role="img" aria-label={`${percent(share)} used`}>
      <i className={share > 0.85 ? 'tight' : ''} style={{ width: `${Math.min(100, share * 100)}%` }} />
    </span>
  );
}

function Sites({ estate }: { estate: Estate }) {
  return (
    <table className="table estate-table">
      <thead>
        <tr>
          <th>Hypervisor</th>
          <th className="number">Machines</th>
          <th>Cores, memory, graphics</th>
          <th>Addresses</th>
          <th>Datastores</th>
        </tr>
      </thead>
      <tbody>
        {estate.sites.map((site) => (
          <tr key={site.name}>
            <td className="mono strong">{site.name}</td>
            <td className="number">
              {count(site.machines)}
              <span className="quiet small made-at-once">{count(site.makesAtOnce)} made at a time</span>
            </td>
            <td>
              <Amount name="cores" amount={site.cores} show={count} />
              <Amount name="memory" amount={site.memoryBytes} show={size} />
              {site.graphics.total > 0 && <Amount name="graphics" amount={site.graphics} show={count} />}
            </td>
            <td>
              {site.networks.map((network) => (
                <div key={network.name} title={network.range}>
                  <Amount name={network.name} amount={network.addresses} show={count} />
                </div>
              ))}
            </td>
            <td>
              {site.datastores.map((store) => (
                <Amount
                  key={store.name}
                  name={store.name}
                  amount={{ used: store.usedBytes, total: store.capacityBytes }}
                  show={size}
                />
              ))}
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

interface AmountProps {
  readonly name: string;
  readonly amount: { readonly used: number; readonly total: number };
  show(n: number): string;
}

function Amount({ name, amount: { used, total }, show }: AmountProps) {
  return (
    <div className="store">
      <span>{name}</span>
      <Gauge used={used} total={total} />
      <span className="quiet">
        {show(used)} of {show(total)}
      </span>
    </div>
  );
}

function Shares({ estate }: { estate: Estate }) {
  return (
    <>
      <h2 className="section-title">File shares</h2>
      <table className="table estate-table">
        <tbody>
          {estate.shares.map((share) => (
            <tr key={share.name}>
              <td className="mono strong">{share.name}</td>
              <td>{plural(share.files, 'container')}</td>
              <td>
                {size(share.usedBytes)} of {size(share.capacityBytes)}
              </td>
              <td>{count(share.operationsPerSecond)} operations/s</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

function Others({ estate }: { estate: Estate }) {
  const { now } = useEstateTime();
  const { agents, directory } = estate;
  return (
    <>
      <h2 className="section-title">Directory, agents, people</h2>
      <dl className="facts">
        <dt>Directory</dt>
        <dd>
          <span className="mono">{directory.root}</span>: {plural(directory.users, 'person', 'people')},{' '}
          {plural(directory.groups, 'group')}, {plural(directory.units, 'unit')},{' '}
          {plural(directory.computers, 'computer account')}
        </dd>
        <dt>Agents</dt>
        <dd>
          {count(agents.reporting)} report every five minutes
          {agents.nextCheck !== null &&
            `, the next ${agents.nextCheck > now ? relative(agents.nextCheck, now) : 'now'}`}
          {agents.silent.length > 0 && <span className="trouble">; silent: {agents.silent.join(', ')}</span>}
        </dd>
        <dt>Sessions</dt>
        <dd>{count(estate.sessions)} now, by the hourly curve of each pool</dd>
      </dl>
    </>
  );
}

type FaultKind = Estate['faults'][number]['kind'];

const kinds: { value: FaultKind; label: string; target: string }[] = [
  { value: 'fail next', label: 'the next call fails', target: 'Call' },
  { value: 'quota exhausted', label: 'a quota is exhausted', target: 'Site' },
  { value: 'agent silent', label: 'an agent is silent', target: 'Host' },
  { value: 'account locked', label: 'an account is locked', target: 'Account' },
  { value: 'slow sign-ins', label: 'people wait longer to sign in', target: 'Pool' },
];

function Faults({ estate }: { estate: Estate }) {
  const [remove] = estateApi.useRemoveFaultMutation();
  return (
    <aside className="evidence" aria-label="Faults">
      <h2>Faults to practise with</h2>
      <NewFault estate={estate} />
      <h2>Switched on</h2>
      {estate.faults.map((fault) => (
        <div key={fault.id} className="spread version-row">
          <span>
            {fault.kind}: <span className="mono">{fault.target}</span>
          </span>
          <button
            type="button"
            className="plain-button"
            aria-label={`Switch off ${fault.kind} ${fault.target}`}
            onClick={() => void remove({ params: { id: fault.id } })}
          >
            switch off
          </button>
        </div>
      ))}
      {estate.faults.length === 0 && (
        <p className="quiet">
          None. A fault is used up by the call it hits; quotas and agents stay until switched off.
        </p>
      )}
      <h2>Behind everybody’s back</h2>
      <SecretChangeFields />
    </aside>
  );
}

/** What somebody does to a host and tells nobody, done at once: for drift to be found. */
function SecretChangeFields() {
  const [change, setChange] = useState<(typeof secretChanges)[number]>('a container is taken off');
  const [host, setHost] = useState('');
  const [sought, setSought] = useState('');
  const { data: hosts = [] } = poolsApi.useHostsQuery({ query: { q: sought } });
  const [make, making] = estateApi.useChangeInSecretMutation();
  const problem = problemOf(making.error);
  return (
    <>
      <Field label="What is done">
        <Select
          aria-label="What is done"
          value={change}
          options={secretChanges.map((value) => ({ value, label: value }))}
          onChange={setChange}
        />
      </Field>
      <Field
        label="To the host"
        fault={faultAt(problem, 'host')}
        hint="it is told nowhere; Rollouts, Drift, finds it within the hour"
      >
        <Select
          showSearch={{ onSearch: setSought }}
          aria-label="To the host"
          placeholder="choose a host"
          value={host || null}
          onChange={(value) => setHost(value ?? '')}
          options={hosts.map(({ name }) => ({ value: name, label: name }))}
        />
      </Field>
      <ProblemNote problem={problem} shown={['host']} />
      <Button disabled={host === ''} onClick={() => void make({ body: { host, change } })}>
        Do it
      </Button>
    </>
  );
}

function NewFault({ estate }: { estate: Estate }) {
  const [kind, setKind] = useState<FaultKind>('fail next');
  const [target, setTarget] = useState<string>('');
  const [sought, setSought] = useState('');
  const [add, adding] = estateApi.useAddFaultMutation();
  const { data: hosts = [] } = poolsApi.useHostsQuery(
    { query: { q: sought } },
    { skip: kind !== 'agent silent' },
  );
  const { data: accounts = [] } = directoryApi.useAccountsQuery({}, { skip: kind !== 'account locked' });
  const { data: pools = [] } = poolsApi.usePoolsQuery({}, { skip: kind !== 'slow sign-ins' });
  const problem = problemOf(adding.error);
  const targets = {
    'fail next': [...callKinds],
    'quota exhausted': estate.sites.map((site) => site.name),
    'agent silent': hosts.map((host) => host.name),
    'account locked': accounts.map((account) => account.name),
    'slow sign-ins': pools.map((pool) => pool.name),
  }[kind];
  return (
    <>
      <Field label="Fault">
        <Select
          aria-label="Fault"
          value={kind}
          options={kinds}
          onChange={(value) => {
            setKind(value);
            setTarget('');
          }}
        />
      </Field>
      <Field label={kinds.find((row) => row.value === kind)?.target ?? ''} fault={faultAt(problem, 'target')}>
        <Select
          showSearch
          onSearch={setSought}
          aria-label="Where"
          placeholder="choose where"
          value={target || null}
          onChange={(value) => setTarget(value ?? '')}
          options={targets.map((value) => ({ value, label: value }))}
        />
      </Field>
      <ProblemNote problem={problem} shown={['target']} />
      <Button onClick={() => void add({ body: { kind, target } })}>Switch it on</Button>
    </>
  );
}
