/** The fields of one ring: which hosts, when and how fast, and what has to hold behind it. */
import { Checkbox, Input, InputNumber, Select } from 'antd';
import type { PlannedRing, RingGate } from '@vatline/contract/rings/ring';
import { poolsApi } from '../../api/pools.ts';
import { Field } from '../../parts/field.tsx';
import { PaceFields, planFieldPaths } from '../plan-fields.tsx';

type Take = PlannedRing['take'];

interface Props {
  readonly ring: PlannedRing;
  /** Whether no ring comes behind it, so that nothing is left to open. */
  readonly isLast: boolean;
  readonly onChange: (ring: PlannedRing) => void;
  /** Of a path within the ring. */
  readonly fault: (path: string) => string | undefined;
}

/** Faults at these paths within a ring stand beside their fields. */
export const ringFieldPaths = [
  'name',
  'poolId',
  'take',
  'take.percent',
  'take.like',
  'take.datastore',
  'gate.finishedShare',
  'gate.soakHours',
  'gate.needsApproval',
  ...planFieldPaths.map((path) => `plan.${path}`),
];

export function RingFields(props: Props) {
  const { ring, onChange, fault } = props;
  const { data: pools = [] } = poolsApi.usePoolsQuery({});
  const pool = pools.find(({ id }) => id === ring.poolId);
  return (
    <>
      <Hosts {...props} />
      <PaceFields
        plan={ring.plan}
        hosts={pool?.hosts ?? ring.plan.batch}
        onChange={(plan) => onChange({ ...ring, plan })}
        fault={(path) => fault(`plan.${path}`)}
      />
      {props.isLast ? (
        <p className="quiet">No ring comes behind it, so no gate stands there.</p>
      ) : (
        <GateFields gate={ring.gate} onChange={(gate) => onChange({ ...ring, gate })} fault={fault} />
      )}
    </>
  );
}

const takes: { value: Take['by']; label: string }[] = [
  { value: 'rest', label: 'all that no ring before it has' },
  { value: 'share', label: 'a share of the pool' },
  { value: 'name', label: 'those of a name' },
  { value: 'datastore', label: 'those on a datastore' },
];

const firstTake: Record<Take['by'], Take> = {
  rest: { by: 'rest' },
  share: { by: 'share', percent: 10, order: 'name' },
  name: { by: 'name', like: '*' },
  datastore: { by: 'datastore', datastore: '' },
};

function Hosts({ ring, onChange, fault }: Props) {
  const { data: pools = [] } = poolsApi.usePoolsQuery({});
  const set = (change: Partial<PlannedRing>) => onChange({ ...ring, ...change });
  return (
    <>
      <Field label="Name of the ring" fault={fault('name')}>
        <Input value={ring.name} maxLength={60} onChange={(event) => set({ name: event.target.value })} />
      </Field>
      <Field label="Pool" fault={fault('poolId')}>
        <Select
          aria-label="Pool"
          value={ring.poolId || null}
          options={pools.map((pool) => ({ value: pool.id, label: `${pool.name}, ${pool.hosts} hosts` }))}
          onChange={(poolId) => poolId && set({ poolId })}
        />
      </Field>
      <Field label="Hosts" fault={fault('take')}>
        <Select
          aria-label="Hosts of the ring"
          value={ring.take.by}
          options={takes}
          onChange={(by) => set({ take: firstTake[by] })}
        />
      </Field>
      <TakeFields take={ring.take} pool={ring.poolId} onChange={(take) => set({ take })} fault={fault} />
    </>
  );
}

function TakeFields({
  take,
  pool,
  onChange,
  fault,
}: {
  readonly take: Take;
  readonly pool: string;
  readonly onChange: (take: Take) => void;
  readonly fault: Props['fault'];
}) {
  switch (take.by) {
    case 'rest':
      return null;
    case 'share':
      return (
        <div className="fields">
          <Field label="Share of the pool, %" fault={fault('take.percent')}>
            <InputNumber
              min={1}
              max={100}
              value={take.percent}
              onChange={(percent) => onChange({ ...take, percent: percent ?? 1 })}
            />
          </Field>
          <Field label="Taken">
            <Select
              aria-label="Taken"
              value={take.order}
              options={[
                { value: 'name', label: 'the first by name' },
                { value: 'sites', label: 'equally from each site' },
              ]}
              onChange={(order) => onChange({ ...take, order })}
            />
          </Field>
        </div>
      );
    case 'name':
      return (
        <Field label="Name, with * and ?" fault={fault('take.like')}>
          <Input
            className="mono"
            value={take.like}
            maxLength={200}
            onChange={(event) => onChange({ ...take, like: event.target.value })}
          />
        </Field>
      );
    case 'datastore':
      return (
        <Datastore
          pool={pool}
          chosen={take.datastore}
          fault={fault('take.datastore')}
          onChange={(datastore) => onChange({ ...take, datastore })}
        />
      );
  }
}

function Datastore({
  pool,
  chosen,
  fault,
  onChange,
}: {
  readonly pool: string;
  readonly chosen: string;
  readonly fault: string | undefined;
  readonly onChange: (datastore: string) => void;
}) {
  const { data } = poolsApi.usePoolQuery({ params: { id: pool } }, { skip: pool === '' });
  const names = [...new Set((data?.places ?? []).map((place) => place.datastore))];
  return (
    <Field label="Datastore" fault={fault}>
      <Select
        aria-label="Datastore"
        value={chosen || null}
        options={names.map((value) => ({ value, label: value }))}
        onChange={(value) => value && onChange(value)}
      />
    </Field>
  );
}

function GateFields({
  gate,
  onChange,
  fault,
}: {
  readonly gate: RingGate;
  readonly onChange: (gate: RingGate) => void;
  readonly fault: Props['fault'];
}) {
  const set = (change: Partial<RingGate>) => onChange({ ...gate, ...change });
  const box = (label: string, field: 'needsApproval' | 'watchesSignIns' | 'goesBack') => (
    <Checkbox checked={gate[field]} onChange={(event) => set({ [field]: event.target.checked })}>
      {label}
    </Checkbox>
  );
  return (
    <>
      <h2>Before the next ring begins</h2>
      <div className="fields">
        <Field label="Hosts done, %" fault={fault('gate.finishedShare')}>
          <InputNumber
            min={1}
            max={100}
            value={Math.round(gate.finishedShare * 100)}
            onChange={(n) => set({ finishedShare: (n ?? 1) / 100 })}
          />
        </Field>
        <Field label="Hours of soak" fault={fault('gate.soakHours')}>
          <InputNumber
            min={0}
            max={720}
            value={gate.soakHours}
            onChange={(n) => set({ soakHours: n ?? 0 })}
          />
        </Field>
      </div>
      <div className="gate-boxes">
        {box('somebody else than the maker approves', 'needsApproval')}
        {fault('gate.needsApproval') && (
          <span className="field-fault" role="alert">
            {fault('gate.needsApproval')}
          </span>
        )}
        {box('people do not wait longer to sign in', 'watchesSignIns')}
        {box('if it holds, its hosts go back by themselves', 'goesBack')}
      </div>
    </>
  );
}
