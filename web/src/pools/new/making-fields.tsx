/** How hosts are made: licences, pace, what a fault means, and scripts. */
import { Checkbox, InputNumber, Segmented, Select } from 'antd';
import { lazy, Suspense } from 'react';
import type { PoolDraft } from '@vatline/contract/pool/kinds';
import { estateApi } from '../../api/estate.ts';
import { Field } from '../../parts/field.tsx';
import { count } from '../../parts/format.ts';
import type { PoolForm } from './pool-form.ts';

const TextEditor = lazy(() => import('../../parts/text-editor.tsx'));
const SERVICE = '';

export function MakingFields({ form: { draft, set, fault } }: { form: PoolForm }) {
  const { data: estate } = estateApi.useEstateQuery({});
  return (
    <div className="fields">
      <Field label="Licence of the system" fault={fault('licence')}>
        <Select
          aria-label="Licence of the system"
          value={draft.licence ?? SERVICE}
          onChange={(name) => set({ licence: name === SERVICE ? null : name })}
          options={[
            { value: SERVICE, label: 'key service, without a bound' },
            ...(estate?.licences.map((key) => ({
              value: key.name,
              label: `${key.name}, ${count(key.activations - key.used)} of ${count(key.activations)} activations left`,
            })) ?? []),
          ]}
        />
      </Field>
      <Field label="Made at the same time" fault={fault('atOnce')}>
        <InputNumber value={draft.atOnce ?? null} min={1} onChange={(n) => set({ atOnce: n ?? undefined })} />
      </Field>
      <Field
        label="At the first fault"
        hint={
          draft.onFault === 'go on'
            ? 'the others are made; failed ones are listed at the end'
            : 'nothing further is begun'
        }
      >
        <Segmented<NonNullable<PoolDraft['onFault']>>
          value={draft.onFault ?? 'stop'}
          onChange={(onFault) => set({ onFault })}
          options={['stop', 'go on']}
        />
      </Field>
      <div className="field">
        <Checkbox
          checked={draft.isAnyway ?? false}
          onChange={(event) => set({ isAnyway: event.target.checked })}
        >
          Make them although not all fit
        </Checkbox>
      </div>
      <div className="field wide">
        <span className="field-label">Script that each host runs once it is made</span>
        <Suspense fallback={<p className="quiet">The editor is loading.</p>}>
          <TextEditor
            label="Script that each host runs once it is made"
            language="powershell"
            height="72px"
            text={draft.afterMaking ?? ''}
            onChange={(afterMaking) => set({ afterMaking })}
          />
        </Suspense>
        {fault('afterMaking') && (
          <span className="field-fault" role="alert">
            {fault('afterMaking')}
          </span>
        )}
      </div>
    </div>
  );
}
