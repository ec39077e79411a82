/** Makes a pool: fields on the left, the live answer beside them. */
import { Button, Input, InputNumber, Segmented, Select } from 'antd';
import { useDeferredValue, useState } from 'react';
import { useNavigate } from 'react-router';
import { canBeRolledOut } from '@vatline/core/image/version-state';
import type { NewPool, PoolDraft } from '@vatline/contract/pool/kinds';
import type { PoolPreview } from '@vatline/contract/pool/endpoints';
import { estateApi } from '../api/estate.ts';
import { imagesApi } from '../api/images.ts';
import { poolsApi } from '../api/pools.ts';
import { faultAt, problemOf } from '../api/problem.ts';
import { DyeChip } from '../parts/dye-chip.tsx';
import { Field, ProblemNote } from '../parts/field.tsx';
import { Finding } from '../parts/finding.tsx';
import { count, minutes, plural, size } from '../parts/format.ts';
import { How } from '../parts/how.tsx';
import { UnitPicker } from '../parts/unit-picker.tsx';

const begin: PoolDraft = {
  kind: 'pooled',
  clone: 'linked',
  start: 1,
  count: 8,
  processors: 4,
  sessionLimit: 12,
  pattern: 'WCL-NEW-##',
  name: '',
};
const fields = [
  'name',
  'imageVersionId',
  'kind',
  'clone',
  'pattern',
  'start',
  'count',
  'ou',
  'site',
  'datastore',
  'processors',
  'sessionLimit',
];

export function NewPoolBench() {
  const navigate = useNavigate();
  const [pool, setPool] = useState<PoolDraft>(begin);
  const [tried, setTried] = useState(false);
  const asked = useDeferredValue(pool);
  const { data: preview, error } = poolsApi.usePreviewPoolQuery({ body: asked });
  const [create, creating] = poolsApi.useCreatePoolMutation();
  const set = (change: PoolDraft) => setPool({ ...pool, ...change });
  const refused = problemOf(creating.error);
  /** What is merely not chosen yet is not shown as a fault before the first try. */
  const fault = (path: string) => {
    const found = preview?.faults.find((row) => row.path === path);
    return (found?.isMissing && !tried ? undefined : found?.message) ?? faultAt(refused, path);
  };
  const make = async () => {
    setTried(true);
    if (!preview || preview.faults.length > 0) return;
    const result = await create({ body: pool as NewPool });
    if (result.data) void navigate(`/pools/${result.data.poolId}`);
  };
  return (
    <div className="bench-columns">
      <section className="work" aria-label="Make a pool">
        <h1 className="answer">{headline(pool, preview)}</h1>
        <p className="under-answer">
          Nothing is made before everything fits: names, directory, cores and storage are checked for the
          whole batch.
        </p>
        <div className="fields" style={{ maxWidth: 640 }}>
          <Field label="Name of the pool" fault={fault('name')}>
            <Input
              value={pool.name ?? ''}
              placeholder="such as records-office"
              onChange={(event) => set({ name: event.target.value })}
            />
          </Field>
          <Field label="Image version" fault={fault('imageVersionId')}>
            <VersionPicker
              value={pool.imageVersionId}
              onChange={(imageVersionId) => set({ imageVersionId })}
            />
          </Field>
          <Field
            label="Name pattern"
            fault={fault('pattern')}
            hint="one # for each digit; at most 15 characters"
          >
            <Input
              className="mono"
              value={pool.pattern ?? ''}
              onChange={(event) => set({ pattern: event.target.value })}
            />
          </Field>
          <div className="fields">
            <Field label="First number" fault={fault('start')}>
              <InputNumber value={pool.start ?? null} min={0} onChange={(n) => set({ start: n ?? 0 })} />
            </Field>
            <Field label="Hosts" fault={fault('count')}>
              <InputNumber value={pool.count ?? null} onChange={(n) => set({ count: n ?? 0 })} />
            </Field>
          </div>
          <Field label="Organisational unit" fault={fault('ou')} wide>
            <UnitPicker value={pool.ou} onChange={(ou) => set({ ou })} />
          </Field>
          <SitePicker pool={pool} set={set} fault={fault} />
          <Field
            label="Clones"
            hint={pool.clone === 'full' ? 'each host has the whole image' : 'hosts share one parent disk'}
          >
            <Segmented<NewPool['clone']>
              value={pool.clone ?? 'linked'}
              onChange={(clone) => set({ clone })}
              options={[
                { value: 'linked', label: 'linked' },
                { value: 'full', label: 'full' },
              ]}
            />
          </Field>
          <div className="fields">
            <Field label="Processors a host" fault={fault('processors')}>
              <InputNumber value={pool.processors ?? null} onChange={(n) => set({ processors: n ?? 0 })} />
            </Field>
            <Field label="Sessions a host" fault={fault('sessionLimit')}>
              <InputNumber
                value={pool.sessionLimit ?? null}
                onChange={(n) => set({ sessionLimit: n ?? 0 })}
              />
            </Field>
          </div>
        </div>
        <ProblemNote problem={problemOf(error)} />
        <ProblemNote problem={refused} shown={fields} />
        <Button type="primary" size="large" loading={creating.isLoading} onClick={() => void make()}>
          Make {plural(pool.count ?? 0, 'host')}
        </Button>
      </section>
      <PreviewColumn preview={preview} />
    </div>
  );
}

function headline(pool: PoolDraft, preview: PoolPreview | undefined): string {
  const n = pool.count ?? 0;
  if (!preview?.fit) return 'Make a pool of hosts';
  if (!preview.fit.fits) return `${n} hosts do not fit; ${preview.fit.largest} do.`;
  return `${plural(n, 'host')} fit, made in about ${minutes(preview.minutes)}.`;
}

function VersionPicker({ value, onChange }: { value: string | undefined; onChange: (id: string) => void }) {
  const { data: lines = [] } = imagesApi.useLinesQuery({});
  return (
    <Select
      aria-label="Image version"
      placeholder="choose a version"
      value={value ?? null}
      onChange={(id) => id && onChange(id)}
      options={lines.map((line) => ({
        label: line.name,
        title: line.name,
        options: line.versions
          .filter((version) => canBeRolledOut(version.state))
          .map((version) => ({
            value: version.id,
            label: (
              <DyeChip name={version.dye} number={version.number} note={`${line.name}, ${version.state}`} />
            ),
          })),
      }))}
    />
  );
}

function SitePicker({
  pool,
  set,
  fault,
}: {
  pool: PoolDraft;
  set: (change: PoolDraft) => void;
  fault: (path: string) => string | undefined;
}) {
  const { data: estate } = estateApi.useEstateQuery({});
  const site = estate?.sites.find((row) => row.name === pool.site);
  return (
    <>
      <Field label="Site" fault={fault('site')}>
        <Select
          aria-label="Site"
          placeholder="choose a site"
          value={pool.site ?? null}
          onChange={(name) =>
            name &&
            set({
              site: name,
              datastore: estate?.sites.find((row) => row.name === name)?.datastores.at(-1)?.name ?? '',
            })
          }
          options={
            estate?.sites.map((row) => ({
              value: row.name,
              label: `${row.name}, ${count(row.coresTotal - row.coresUsed)} of ${count(row.coresTotal)} cores free`,
            })) ?? []
          }
        />
      </Field>
      <Field label="Datastore" fault={fault('datastore')}>
        <Select
          aria-label="Datastore"
          placeholder="choose a datastore"
          value={pool.datastore ?? null}
          onChange={(datastore) => datastore && set({ datastore })}
          options={
            site?.datastores.map((row) => ({
              value: row.name,
              label: `${row.name}, ${size(row.capacityBytes - row.usedBytes)} free`,
            })) ?? []
          }
        />
      </Field>
    </>
  );
}

const NAMES_SHOWN = 24;

function PreviewColumn({ preview }: { preview: PoolPreview | undefined }) {
  if (!preview) return <aside className="evidence" />;
  const { fit, names, clashes, assumed } = preview;
  const missing = preview.faults.filter((fault) => fault.isMissing);
  return (
    <aside className="evidence" aria-label="What it would be">
      <h2>Names</h2>
      {names.length > 0 ? (
        <>
          <p className="name-list mono">
            {names.slice(0, NAMES_SHOWN).map((name) => (
              <span key={name} className={clashes.includes(name) ? 'trouble' : ''}>
                {name}
              </span>
            ))}
          </p>
          <p className="quiet">
            {names.length > NAMES_SHOWN && `up to ${names.at(-1)}; `}
            {clashes.length === 0 ? 'none is taken' : `${clashes.length} taken, shown in red`}
          </p>
        </>
      ) : (
        <p className="quiet">The names stand here as soon as the pattern gives any.</p>
      )}
      <h2>Does it fit?</h2>
      {fit ? (
        <>
          <Room label="Cores" needed={fit.coresNeeded} free={fit.coresFree} show={count} />
          <Room label="Storage" needed={fit.bytesNeeded} free={fit.bytesFree} show={size} />
          <p className="quiet">
            The largest batch that fits is {count(fit.largest)};{' '}
            {fit.binding === 'cores' ? 'cores give' : 'storage gives'} out first.{' '}
            <How
              rows={[
                ['Full clone', 'hosts × (image + growth × days + swap)'],
                ['Linked clone', 'image + hosts × (growth × days + swap)'],
                [
                  'Assumed',
                  `growth ${size(assumed.growthBytesPerDay)} a day, ${assumed.days} days between rebuilds, swap file ${size(assumed.swapBytes)}`,
                ],
              ]}
            />
          </p>
        </>
      ) : (
        <p className="quiet">Choose an image version, a site and a datastore, and it is worked out.</p>
      )}
      {missing.length > 0 && (
        <>
          <h2>Still missing</h2>
          {missing.map((fault) => (
            <Finding
              key={fault.path}
              tone="calm"
              title={
                {
                  name: 'A name',
                  imageVersionId: 'An image version',
                  ou: 'An organisational unit',
                  site: 'A site',
                  datastore: 'A datastore',
                }[fault.path] ?? fault.path
              }
            />
          ))}
        </>
      )}
    </aside>
  );
}

function Room({
  label,
  needed,
  free,
  show,
}: {
  label: string;
  needed: number;
  free: number;
  show: (n: number) => string;
}) {
  const share = Math.min(1, needed / Math.max(1, free));
  return (
    <div className="room">
      <div className="spread">
        <span>{label}</span>
        <span className={needed > free ? 'trouble number' : 'number'}>
          {show(needed)} of {show(free)} free
        </span>
      </div>
      <div className="room-bar">
        <i className={needed > free ? 'over' : ''} style={{ width: `${share * 100}%` }} />
      </div>
    </div>
  );
}
