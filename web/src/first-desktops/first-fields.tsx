/** The fields of first desktops, by what they are about. */
import { Checkbox, Input, InputNumber, Select } from 'antd';
import type { FirstDraft } from '@vatline/contract/first-desktops';
import { estateApi } from '../api/estate.ts';
import { Field } from '../parts/field.tsx';
import { count, plural, size } from '../parts/format.ts';
import { UnitPicker } from '../parts/unit-picker.tsx';

interface Form {
  readonly draft: FirstDraft;
  set(part: Partial<FirstDraft>): void;
  fault(path: string): string | undefined;
}

/** Paths of faults that stand beside a field. */
export const fieldsOfBench = [
  'line',
  'system',
  'edition',
  'pool',
  'count',
  'sessionLimit',
  'pattern',
  'unit',
  'site',
  'network',
  'datastore',
  'size',
  'group',
];

interface Media {
  readonly system: string;
  readonly editions: readonly string[];
}

export function ImageFields({ form: { draft, set, fault }, media }: { form: Form; media: readonly Media[] }) {
  const editions = media.find((one) => one.system === draft.system)?.editions ?? [];
  return (
    <div className="fields">
      <Field label="Name of the image line" fault={fault('line')}>
        <Input value={draft.line} onChange={(event) => set({ line: event.target.value })} />
      </Field>
      <Field label="System" fault={fault('system') ?? fault('edition')}>
        <div className="row">
          <Select
            aria-label="System"
            style={{ flex: 1 }}
            value={draft.system}
            onChange={(system) =>
              set({ system, edition: media.find((one) => one.system === system)?.editions[0] ?? '' })
            }
            options={media.map((one) => ({ value: one.system, label: one.system }))}
          />
          <Select
            aria-label="Edition"
            style={{ width: 140 }}
            value={draft.edition}
            onChange={(edition) => set({ edition })}
            options={editions.map((one) => ({ value: one, label: one }))}
          />
        </div>
      </Field>
      <div className="wide row">
        <Checkbox
          checked={draft.withUpdates}
          onChange={(event) => set({ withUpdates: event.target.checked })}
        >
          With the newest updates
        </Checkbox>
        <Checkbox checked={draft.withTools} onChange={(event) => set({ withTools: event.target.checked })}>
          With the tools of the hypervisor
        </Checkbox>
      </div>
    </div>
  );
}

export function PoolFields({ form: { draft, set, fault } }: { form: Form }) {
  return (
    <div className="fields">
      <Field label="Name of the pool" fault={fault('pool')}>
        <Input value={draft.pool} onChange={(event) => set({ pool: event.target.value })} />
      </Field>
      <Field label="Name pattern of hosts" fault={fault('pattern')} hint="one # for each digit">
        <Input
          className="mono"
          value={draft.pattern}
          onChange={(event) => set({ pattern: event.target.value })}
        />
      </Field>
      <Field label="Sessions on each" fault={fault('sessionLimit')} hint="people at a time on one host">
        <InputNumber
          min={1}
          value={draft.sessionLimit || null}
          onChange={(n) => set({ sessionLimit: n ?? 0 })}
        />
      </Field>
      <Field label="Organisational unit" fault={fault('unit')}>
        <UnitPicker value={draft.unit} onChange={(unit) => set({ unit })} takesText />
      </Field>
    </div>
  );
}

export function PlaceFields({ form: { draft, set, fault } }: { form: Form }) {
  const { data: estate } = estateApi.useEstateQuery({});
  const sites = estate?.sites.filter((site) => site.sizes.length > 0) ?? [];
  const site = sites.find((one) => one.name === draft.site);
  const picker = (field: 'network' | 'datastore' | 'size', label: string, options: [string, string][]) => (
    <Field label={label} fault={fault(field)}>
      <Select
        aria-label={label}
        value={draft[field] || null}
        onChange={(name) => name && set({ [field]: name })}
        options={options.map(([value, text]) => ({ value, label: text }))}
      />
    </Field>
  );
  return (
    <div className="fields">
      <Field label="Site" fault={fault('site')}>
        <Select
          aria-label="Site"
          value={draft.site || null}
          onChange={(name) => {
            const chosen = sites.find((one) => one.name === name);
            if (!chosen) return;
            set({
              site: chosen.name,
              network: chosen.networks[0]?.name ?? '',
              datastore: chosen.datastores[0]?.name ?? '',
              size: chosen.sizes.some((one) => one.name === draft.size)
                ? draft.size
                : (chosen.sizes[0]?.name ?? ''),
            });
          }}
          options={sites.map((one) => ({
            value: one.name,
            label: `${one.name}, ${count(one.cores.total - one.cores.used)} cores free`,
          }))}
        />
      </Field>
      {picker(
        'size',
        'Machine size',
        (site?.sizes ?? []).map((one) => [
          one.name,
          `${one.name}: ${one.processors} cores, ${size(one.memoryBytes)}, ${one.pricePerHour.toFixed(2)} an hour`,
        ]),
      )}
      {picker(
        'network',
        'Network',
        (site?.networks ?? []).map((one) => [
          one.name,
          `${one.name}, ${plural(one.addresses.total - one.addresses.used, 'address', 'addresses')} free`,
        ]),
      )}
      {picker(
        'datastore',
        'Datastore',
        (site?.datastores ?? []).map((one) => [
          one.name,
          `${one.name}, ${size(one.capacityBytes - one.usedBytes)} free`,
        ]),
      )}
    </div>
  );
}

interface Group {
  readonly name: string;
  readonly people: number;
}

export function PeopleFields({
  form: { draft, set, fault },
  groups,
}: {
  form: Form;
  groups: readonly Group[];
}) {
  return (
    <div className="fields">
      <Field label="Desktops" fault={fault('count')}>
        <InputNumber min={1} value={draft.count || null} onChange={(n) => set({ count: n ?? 0 })} />
      </Field>
      <Field label="Group" fault={fault('group')} hint="whoever is in it, directly or by another group">
        <Select
          aria-label="Group"
          showSearch
          value={draft.group || null}
          onChange={(group) => group && set({ group })}
          options={groups.map((one) => ({
            value: one.name,
            label: `${one.name}, ${plural(one.people, 'person', 'people')}`,
          }))}
        />
      </Field>
    </div>
  );
}
