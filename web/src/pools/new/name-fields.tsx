/** How many hosts, and what they are called. */
import { Checkbox, Input, InputNumber } from 'antd';
import { Field } from '../../parts/field.tsx';
import type { PoolForm } from './pool-form.ts';

export function NameFields({ form: { draft, set, fault } }: { form: PoolForm }) {
  return (
    <div className="fields three">
      <Field label="Hosts" fault={fault('count')} hint={draft.chassis ? 'one of each machine' : undefined}>
        <InputNumber
          value={draft.count ?? null}
          disabled={Boolean(draft.chassis)}
          onChange={(n) => set({ count: n ?? undefined })}
        />
      </Field>
      <Field label="Name pattern" fault={fault('pattern')} hint="one # for each digit">
        <Input
          className="mono"
          value={draft.pattern ?? ''}
          onChange={(event) => set({ pattern: event.target.value })}
        />
      </Field>
      <Field label="First number" fault={fault('start')}>
        <InputNumber value={draft.start ?? null} min={0} onChange={(n) => set({ start: n ?? undefined })} />
      </Field>
      <div className="wide">
        <Checkbox
          checked={draft.fillGaps ?? false}
          onChange={(event) => set({ fillGaps: event.target.checked })}
        >
          Pass over names that are taken, and fill the gaps between them
        </Checkbox>
        <Checkbox
          checked={draft.isAdopting ?? false}
          onChange={(event) => set({ isAdopting: event.target.checked })}
        >
          Use computer accounts that lie in the unit already, without a machine
        </Checkbox>
      </div>
    </div>
  );
}
