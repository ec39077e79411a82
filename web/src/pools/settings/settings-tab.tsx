/** What a pool is, changed once it is there: what reaches people at once, what only new hosts, and what no more. */
import { Button, Input, InputNumber, Segmented, Select } from 'antd';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import { cloneKinds, signOuts, type PoolDraft } from '@vatline/contract/pool/kinds';
import type { ChangedSettings } from '@vatline/contract/pool/settings';
import { settingChanges, settingFaults, type SettingChange } from '@vatline/core/pool/settings-change';
import { directoryApi } from '../../api/directory.ts';
import { estateApi } from '../../api/estate.ts';
import { poolsApi } from '../../api/pools.ts';
import { faultAt, problemOf } from '../../api/problem.ts';
import { Field, ProblemNote } from '../../parts/field.tsx';
import { plural } from '../../parts/format.ts';
import { KeptMeanwhile } from '../../parts/kept-meanwhile.tsx';
import { useAppDispatch, useAppSelector } from '../../shell/store.ts';
import { SizePicker } from '../new/identity-fields.tsx';
import { PeopleFields } from '../new/people-fields.tsx';
import type { PoolForm } from '../new/pool-form.ts';
import { PoolTabs } from '../pool-tabs.tsx';
import { settingWords } from './setting-words.ts';
import { settingsChanged, settingsDraftOf, settingsDropped } from './settings-drafts.ts';

export function SettingsTab({ pool }: { pool: PoolDetail }) {
  const dispatch = useAppDispatch();
  const kept = useAppSelector((state) => settingsDraftOf(state, pool.id));
  const [change, changing] = poolsApi.useChangeSettingsMutation();
  const problem = problemOf(changing.error);
  const basedOn = kept?.basedOn ?? pool.settingsRevision;
  const before = { ...pool.settings, kind: pool.kind, clone: pool.clone, sessionLimit: pool.sessionLimit };
  const after = { ...before, ...kept?.changed };
  const changes = settingChanges(before, after);
  const faults = settingFaults(changes, pool.hosts);
  const drop = () => {
    dispatch(settingsDropped(pool.id));
    changing.reset();
  };
  const form: PoolForm = {
    draft: { ...after, places: pool.places.map((place) => ({ ...place })) },
    preview: undefined,
    set: (part) => {
      changing.reset();
      dispatch(settingsChanged({ poolId: pool.id, changed: { ...kept?.changed, ...part }, basedOn }));
    },
    setPlace: () => undefined,
    fault: (path) =>
      faults.find((one) => one.path === path)?.message ??
      faultAt(problem, `settings.${path}`) ??
      faultAt(problem, path),
  };
  const save = async () => {
    const body = { settings: after as ChangedSettings, basedOn };
    const result = await change({ params: { id: pool.id }, body });
    if (!('error' in result)) dispatch(settingsDropped(pool.id));
  };
  return (
    <div className="bench-columns side-by-side">
      <section className="work" aria-label={`Settings of ${pool.name}`}>
        <h1 className="answer">{headline(pool, changes)}</h1>
        <p className="under-answer">
          Limits reach people at once; how hosts are made reaches those that are made from then on, or made
          anew by a rollout.
        </p>
        <PoolTabs pool={pool} />
        <h2 className="section-title">What people meet</h2>
        <NameFields form={form} />
        <PeopleFields form={form} />
        <h2 className="section-title">How hosts are made</h2>
        <HostFields form={form} />
        <ProblemNote problem={problem} shown={shownPaths} />
        <KeptMeanwhile problem={problem} basedOn={basedOn} kept={pool.settingsRevision} onTake={drop} />
        <div className="row make-row">
          <Button
            type="primary"
            size="large"
            loading={changing.isLoading}
            disabled={changes.length === 0 || faults.length > 0}
            onClick={() => void save()}
          >
            Keep {plural(changes.length, 'change')}
          </Button>
          {kept && (
            <Button size="large" onClick={drop}>
              Drop the changes
            </Button>
          )}
        </div>
      </section>
      <aside className="evidence" aria-label="What changes for whom">
        <Reach changes={changes} hosts={pool.hosts} />
      </aside>
    </div>
  );
}

const shownPaths = Object.keys(settingWords).flatMap((field) => [field, `settings.${field}`]);

function headline(pool: PoolDetail, changes: readonly SettingChange[]): string {
  if (changes.length === 0) return `What ${pool.name} is, and what its hosts are made with.`;
  const never = changes.filter((one) => one.reach === 'never').length;
  if (never > 0 && pool.hosts > 0)
    return `${plural(never, 'change')} cannot be made while ${pool.name} has hosts.`;
  const now = changes.filter((one) => one.reach === 'at once').length;
  const later = changes.length - now;
  return [
    now > 0 ? `${plural(now, 'change')} at once` : '',
    later > 0 ? `${later} for hosts that are made from then on` : '',
  ]
    .filter((part) => part !== '')
    .join(', ')
    .concat('.');
}

function NameFields({ form: { draft, set, fault } }: { form: PoolForm }) {
  return (
    <div className="fields">
      <Field label="Name that people see" fault={fault('title')} hint="the pool’s own where it is empty">
        <Input value={draft.title ?? ''} onChange={(event) => set({ title: event.target.value })} />
      </Field>
      {draft.kind === 'pooled' && (
        <Field label="Sessions a host" fault={fault('sessionLimit')} hint="people at a time on one host">
          <InputNumber
            value={draft.sessionLimit ?? null}
            onChange={(n) => n !== null && set({ sessionLimit: n })}
          />
        </Field>
      )}
    </div>
  );
}

function HostFields({ form }: { form: PoolForm }) {
  const { draft, set, fault } = form;
  const { data: estate } = estateApi.useEstateQuery({});
  const { data: accounts = [] } = directoryApi.useAccountsQuery({});
  const none = '';
  const chosen = (name: string) => (name === none ? null : name);
  return (
    <div className="fields">
      {draft.chassis ? null : (
        <Field label="Machine size" fault={fault('size')}>
          <SizePicker form={form} />
        </Field>
      )}
      <Field label="Clones" fault={fault('clone')}>
        <Segmented<NonNullable<PoolDraft['clone']>>
          value={draft.clone ?? 'linked'}
          onChange={(clone) => set({ clone })}
          options={cloneKinds.map((kind) => ({ value: kind, label: kind === 'network' ? 'streamed' : kind }))}
        />
      </Field>
      <Field label="At sign-out" fault={fault('signOut')}>
        <Segmented<NonNullable<PoolDraft['signOut']>>
          value={draft.signOut ?? 'keep'}
          onChange={(signOut) => set({ signOut })}
          options={[...signOuts]}
        />
      </Field>
      <Field label="Days between rebuilds" fault={fault('days')}>
        <InputNumber value={draft.days ?? null} onChange={(n) => n !== null && set({ days: n })} />
      </Field>
      <Field label="Licence of the system" fault={fault('licence')}>
        <Select
          aria-label="Licence of the system"
          value={draft.licence ?? none}
          onChange={(name) => set({ licence: chosen(name) })}
          options={[
            { value: none, label: 'key service, without a bound' },
            ...(estate?.licences.map((key) => ({ value: key.name, label: key.name })) ?? []),
          ]}
        />
      </Field>
      <Field label="Joined by" fault={fault('joinAccount')}>
        <Select
          aria-label="Joined by"
          value={draft.joinAccount ?? none}
          onChange={(name) => set({ joinAccount: chosen(name) })}
          options={[
            { value: none, label: 'Vat Line’s own account' },
            ...accounts.map((account) => ({ value: account.name, label: account.name })),
          ]}
        />
      </Field>
      <Field label="Script that each host runs once it is made" fault={fault('afterMaking')} wide>
        <Input.TextArea
          rows={3}
          className="mono"
          value={draft.afterMaking ?? ''}
          onChange={(event) => set({ afterMaking: event.target.value })}
        />
      </Field>
    </div>
  );
}

const reaches = [
  ['at once', 'At once'],
  ['new hosts', 'For hosts made from then on'],
  ['never', 'Not while it has hosts'],
] as const;

function Reach({ changes, hosts }: { changes: readonly SettingChange[]; hosts: number }) {
  return (
    <>
      <h2>What changes for whom</h2>
      {changes.length === 0 && <p className="quiet">Nothing is changed yet.</p>}
      {reaches.map(([reach, title]) => {
        const here = changes.filter((one) => one.reach === reach);
        if (here.length === 0) return null;
        return (
          <section key={reach} aria-label={title}>
            <h3 className={reach === 'never' && hosts > 0 ? 'trouble' : ''}>{title}</h3>
            <ul className="plain-list">
              {here.map(({ setting }) => (
                <li key={setting}>{settingWords[setting]}</li>
              ))}
            </ul>
            {reach === 'new hosts' && hosts > 0 && (
              <p className="quiet">
                The {plural(hosts, 'host')} there stay as they are until they are made anew.
              </p>
            )}
          </section>
        );
      })}
    </>
  );
}
