/** Makes a pool: everything that can be chosen on one bench, and the live answer beside it. */
import './new-pool.css';
import { Button, Select } from 'antd';
import { lazy, Suspense, useState, type ReactNode } from 'react';
import { useNavigate } from 'react-router';
import type { NewPoolBody, PoolDraft } from '@vatline/contract/pool/kinds';
import type { PoolPreview } from '@vatline/contract/pool/preview';
import { poolsApi } from '../../api/pools.ts';
import { problemOf } from '../../api/problem.ts';
import { Chips } from '../../parts/chips.tsx';
import { ProblemNote } from '../../parts/field.tsx';
import { Finding } from '../../parts/finding.tsx';
import { minutes, plural } from '../../parts/format.ts';
import { useAppDispatch } from '../../shell/store.ts';
import { DirectoryFields } from './directory-fields.tsx';
import { DiskFields } from './disk-fields.tsx';
import { FitChanges } from './fit-changes.tsx';
import { FitPanel } from './fit-panel.tsx';
import { givesOutFirst } from './fit-words.ts';
import { IdentityFields } from './identity-fields.tsx';
import { MachineFields, machinePaths } from './machine-fields.tsx';
import { MakingFields } from './making-fields.tsx';
import { NameFields } from './name-fields.tsx';
import { NamesPanel } from './names-panel.tsx';
import { PeopleFields } from './people-fields.tsx';
import { PlaceFields } from './place-fields.tsx';
import { copyOf, makingTried, poolDropped, poolReplaced } from './pool-draft.ts';
import { usePoolForm, type PoolForm } from './pool-form.ts';
import { SizePanel } from './size-panel.tsx';
import { StoragePanel } from './storage-panel.tsx';

const PoolText = lazy(() => import('./pool-text.tsx'));

const views = [
  ['fields', 'Fields'],
  ['text', 'As text'],
] as const;

export function NewPoolBench() {
  const [view, setView] = useState<(typeof views)[number][0]>('fields');
  const [create, creating] = poolsApi.useCreatePoolMutation();
  const refused = problemOf(creating.error);
  const form = usePoolForm(refused);
  const { draft, preview } = form;
  return (
    <div className="bench-columns side-by-side new-pool">
      <section className="work" aria-label="Make a pool">
        <h1 className="answer">{headline(draft, preview)}</h1>
        <p className="under-answer">
          Nothing is made before everything fits: room, names, directory, rights, licences and image are
          checked for the whole batch.
        </p>
        <div className="spread">
          <Chips label="As what" options={views} chosen={view} onPress={setView} />
          <CopyPicker />
        </div>
        {view === 'text' ? (
          <Suspense fallback={<p className="quiet">The editor is loading.</p>}>
            <PoolText />
          </Suspense>
        ) : (
          <AllFields form={form} />
        )}
        <ProblemNote problem={form.problem} />
        <ProblemNote problem={refused} shown={fieldsOnScreen(draft)} />
        <MakeButton
          draft={draft}
          isFaulty={form.isAnswered && preview !== undefined && preview.faults.length > 0}
          busy={creating.isLoading}
          make={async () => (await create({ body: draft as NewPoolBody })).data?.poolId}
        />
      </section>
      <AnswerColumn form={form} />
    </div>
  );
}

interface Making {
  readonly draft: PoolDraft;
  /** Pressed before it is known, the server is asked, which refuses by the same rules. */
  readonly isFaulty: boolean;
  readonly busy: boolean;
  make(): Promise<string | undefined>;
}

function MakeButton({ draft, isFaulty, busy, make }: Making) {
  const navigate = useNavigate();
  const dispatch = useAppDispatch();
  const press = async () => {
    dispatch(makingTried());
    if (isFaulty) return;
    const poolId = await make();
    if (poolId === undefined) return;
    dispatch(poolDropped());
    void navigate(`/pools/${poolId}`);
  };
  return (
    <div className="row make-row">
      <Button type="primary" size="large" loading={busy} onClick={() => void press()}>
        Make {plural(draft.count ?? 0, 'host')}
      </Button>
      <Button size="large" onClick={() => dispatch(poolDropped())}>
        Begin anew
      </Button>
    </div>
  );
}

function AllFields({ form }: { form: PoolForm }) {
  const isPhysical = Boolean(form.draft.chassis);
  return (
    <>
      <Group title="What it is">
        <IdentityFields form={form} />
      </Group>
      {!isPhysical && (
        <Group title="Sized from what people used">
          <SizePanel form={form} />
        </Group>
      )}
      <Group title="How many, and what they are called">
        <NameFields form={form} />
      </Group>
      <Group title="Where they stand">
        {isPhysical ? <MachineFields form={form} /> : <PlaceFields form={form} />}
      </Group>
      <Group title="In the directory">
        <DirectoryFields form={form} />
      </Group>
      <Group title="Disks">
        <DiskFields form={form} />
      </Group>
      <Group title="People">
        <PeopleFields form={form} />
      </Group>
      <Group title="Making them">
        <MakingFields form={form} />
      </Group>
    </>
  );
}

function Group({ title, children }: { title: string; children: ReactNode }) {
  return (
    <section className="group" aria-label={title}>
      <h2>{title}</h2>
      {children}
    </section>
  );
}

/** Another pool as a beginning. */
function CopyPicker() {
  const dispatch = useAppDispatch();
  const { data: pools = [] } = poolsApi.usePoolsQuery({});
  const [ask] = poolsApi.useLazyPoolQuery();
  const take = async (id: string) => {
    const { data } = await ask({ params: { id } });
    if (data) dispatch(poolReplaced(copyOf(data)));
  };
  return (
    <Select
      aria-label="Begin with a copy of"
      placeholder="begin with a copy of …"
      style={{ width: 220 }}
      value={null}
      onChange={(id: string | null) => id && void take(id)}
      options={pools.map((pool) => ({ value: pool.id, label: pool.name }))}
    />
  );
}

function headline(draft: PoolDraft, preview: PoolPreview | undefined): string {
  const n = draft.count ?? 0;
  const fit = preview?.fit;
  if (!preview || !fit)
    return draft.chassis ? `Make a pool of machines of ${draft.chassis}` : 'Make a pool of hosts';
  const [first] = fit.places;
  const where = fit.places.length === 1 && first ? ` on ${first.site}` : '';
  if (!fit.fits) {
    const why = fit.binding ? `; ${givesOutFirst(fit.binding)}` : '';
    return `${n} hosts do not fit${where}: ${fit.largest === 0 ? 'not one does' : `${fit.largest} ${fit.largest === 1 ? 'does' : 'do'}`}${why}.`;
  }
  return `${plural(n, 'host')} fit${n === 1 ? 's' : ''}${where}, made in about ${minutes(preview.minutes)} (9 in 10: ${minutes(preview.minutesAtMost)}).`;
}

const missingWords: Record<string, string> = {
  name: 'A name',
  imageVersionId: 'An image version',
  size: 'A machine size',
  ou: 'An organisational unit',
  'places.0.site': 'A site',
};

function AnswerColumn({ form }: { form: PoolForm }) {
  const { preview, draft } = form;
  if (!preview) return <aside className="evidence" />;
  const missing = preview.faults.filter((fault) => fault.isMissing && missingWords[fault.path]);
  return (
    <aside className="evidence" aria-label="What it would be">
      <FitPanel preview={preview} />
      {preview.fit && <FitChanges form={form} fit={preview.fit} />}
      {missing.length > 0 && (
        <section aria-label="Still missing">
          <h2>Still missing</h2>
          {missing.map((fault) => (
            <Finding key={fault.path} tone="calm" title={missingWords[fault.path]} />
          ))}
        </section>
      )}
      <NamesPanel preview={preview} fillGaps={draft.fillGaps ?? false} />
      {preview.storage && <StoragePanel storage={preview.storage} draft={draft} starting={preview.assumed} />}
    </aside>
  );
}

/** Paths of faults that stand beside a field. */
function fieldsOnScreen(draft: PoolDraft): string[] {
  const ofPlaces = (draft.places ?? []).flatMap((_place, i) =>
    ['site', 'network', 'datastore', 'parentDatastore', 'dataDatastore', 'atMost'].map(
      (f) => `places.${i}.${f}`,
    ),
  );
  return [
    'name',
    'title',
    'imageVersionId',
    'size',
    'kind',
    'dataGigabytes',
    'sessionLimit',
    'count',
    'pattern',
    'start',
    'ou',
    'joinAccount',
    'clone',
    'days',
    'signOut',
    'idleMinutes',
    'disconnectMinutes',
    'zone',
    'tags',
    'description',
    'licence',
    'atOnce',
    'afterMaking',
    'places',
    ...ofPlaces,
    ...machinePaths(draft),
  ];
}
