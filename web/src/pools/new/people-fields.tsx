/** What people meet: limits of their sessions, the time zone, and what the pool is filed under. */
import { Checkbox, Input, InputNumber, Select } from 'antd';
import { Field } from '../../parts/field.tsx';
import type { PoolForm } from './pool-form.ts';

/** Zones are those that the browser knows; the server asks once more. */
const ESTATE = '';
const zones = [
  { value: ESTATE, label: 'as the estate' },
  ...Intl.supportedValuesOf('timeZone').map((zone) => ({ value: zone, label: zone })),
];

export function PeopleFields({ form: { draft, set, fault } }: { form: PoolForm }) {
  return (
    <div className="fields">
      <Field
        label="Idle limit, minutes"
        fault={fault('idleMinutes')}
        hint="then disconnected; empty for never"
      >
        <InputNumber value={draft.idleMinutes ?? null} onChange={(idleMinutes) => set({ idleMinutes })} />
      </Field>
      <Field
        label="Disconnect limit, minutes"
        fault={fault('disconnectMinutes')}
        hint="then signed out; empty for never"
      >
        <InputNumber
          value={draft.disconnectMinutes ?? null}
          onChange={(disconnectMinutes) => set({ disconnectMinutes })}
        />
      </Field>
      <Field label="Time zone" fault={fault('zone')}>
        <Select
          showSearch
          aria-label="Time zone"
          value={draft.zone ?? ESTATE}
          onChange={(zone) => set({ zone: zone === ESTATE ? null : zone })}
          options={zones}
        />
      </Field>
      <Field label="Tags" fault={fault('tags') ?? fault('tags.0')} hint="small letters, digits and hyphens">
        <Select
          mode="tags"
          aria-label="Tags"
          value={draft.tags ?? []}
          onChange={(tags: string[]) => set({ tags })}
          open={false}
          suffixIcon={null}
        />
      </Field>
      <Field label="Description" fault={fault('description')} wide>
        <Input.TextArea
          rows={2}
          value={draft.description ?? ''}
          onChange={(event) => set({ description: event.target.value })}
        />
      </Field>
      <div className="wide row">
        <Checkbox
          checked={draft.mayRestart ?? true}
          onChange={(event) => set({ mayRestart: event.target.checked })}
        >
          People may restart their host
        </Checkbox>
        <Checkbox checked={draft.isHeld ?? false} onChange={(event) => set({ isHeld: event.target.checked })}>
          Hold new hosts back until somebody lets people in
        </Checkbox>
      </div>
    </div>
  );
}
