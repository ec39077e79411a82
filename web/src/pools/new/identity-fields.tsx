/** What a pool is: its name, for whom, and what its hosts are modelled on. */
import { Input, InputNumber, Segmented, Select } from 'antd';
import { canBeRolledOut } from '@vatline/core/image/version-state';
import type { PoolDraft } from '@vatline/contract/pool/kinds';
import { estateApi } from '../../api/estate.ts';
import { imagesApi } from '../../api/images.ts';
import { DyeChip } from '../../parts/dye-chip.tsx';
import { Field } from '../../parts/field.tsx';
import { size } from '../../parts/format.ts';
import type { PoolForm } from './pool-form.ts';

export function IdentityFields({ form }: { form: PoolForm }) {
  const { draft, set, fault } = form;
  return (
    <div className="fields">
      <Field label="Name of the pool" fault={fault('name')}>
        <Input
          value={draft.name ?? ''}
          placeholder="such as records-office"
          onChange={(event) => set({ name: event.target.value })}
        />
      </Field>
      <Field label="Name that people see" fault={fault('title')} hint="the pool’s own where it is empty">
        <Input value={draft.title ?? ''} onChange={(event) => set({ title: event.target.value })} />
      </Field>
      <Field label="Image version" fault={fault('imageVersionId')}>
        <VersionPicker value={draft.imageVersionId} onChange={(imageVersionId) => set({ imageVersionId })} />
      </Field>
      {draft.chassis ? null : (
        <Field label="Machine size" fault={fault('size')}>
          <SizePicker form={form} />
        </Field>
      )}
      <Field
        label="A host is for"
        fault={fault('kind')}
        hint={
          draft.kind === 'dedicated' ? 'each host stays one person’s' : 'whoever comes gets one that is free'
        }
      >
        <Segmented<NonNullable<PoolDraft['kind']>>
          value={draft.kind ?? 'pooled'}
          onChange={(kind) => set({ kind, sessionLimit: kind === 'dedicated' ? undefined : 12 })}
          options={[
            { value: 'pooled', label: 'anybody' },
            { value: 'dedicated', label: 'one person' },
          ]}
        />
      </Field>
      {draft.kind === 'dedicated' ? (
        <Field
          label="Personal data disk, GB"
          fault={fault('dataGigabytes')}
          hint="0 for none; it outlives rebuilds"
        >
          <InputNumber
            value={draft.dataGigabytes ?? null}
            min={0}
            onChange={(n) => set({ dataGigabytes: n ?? undefined })}
          />
        </Field>
      ) : (
        <Field label="Sessions a host" fault={fault('sessionLimit')} hint="people at a time on one host">
          <InputNumber
            value={draft.sessionLimit ?? null}
            onChange={(n) => set({ sessionLimit: n ?? undefined })}
          />
        </Field>
      )}
    </div>
  );
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

/** Sizes of the first place's site; before one is chosen, of all sites. */
export function SizePicker({ form: { draft, set } }: { form: PoolForm }) {
  const { data: estate } = estateApi.useEstateQuery({});
  const chosen = draft.places?.[0]?.site;
  const sites = estate?.sites.filter((site) => chosen === undefined || site.name === chosen) ?? [];
  const sizes = new Map(sites.flatMap((site) => site.sizes).map((one) => [one.name, one]));
  return (
    <Select
      aria-label="Machine size"
      placeholder="choose a size"
      value={draft.size ?? null}
      onChange={(name) => name && set({ size: name })}
      options={[...sizes.values()].map((one) => ({
        value: one.name,
        label: `${one.name}: ${one.processors} cores, ${size(one.memoryBytes)}${one.graphics > 0 ? ', graphics' : ''}, ${one.pricePerHour.toFixed(2)} an hour`,
      }))}
    />
  );
}
