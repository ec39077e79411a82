/** Where hosts stand: a site, a network of it, and a datastore for each kind of disk. */
import { Button, InputNumber, Select } from 'antd';
import { MOST_PLACES } from '@vatline/contract/pool/kinds';
import type { Site } from '@vatline/contract/estate';
import { estateApi } from '../../api/estate.ts';
import { Field } from '../../parts/field.tsx';
import { count, size } from '../../parts/format.ts';
import type { DraftPlace, PoolForm } from './pool-form.ts';

export function PlaceFields({ form }: { form: PoolForm }) {
  const { draft, set, fault } = form;
  const places = draft.places ?? [];
  const add = () =>
    set({
      places: [
        ...places.map((place, i) =>
          i === places.length - 1 ? { ...place, atMost: place.atMost ?? 1 } : place,
        ),
        {},
      ],
    });
  const takeAway = (number: number) =>
    set({
      places: places
        .filter((_place, i) => i !== number)
        .map((place, i, rest) => (i === rest.length - 1 ? { ...place, atMost: null } : place)),
    });
  return (
    <>
      {places.map((place, number) => (
        <div key={number} className="place">
          {places.length > 1 && (
            <div className="spread">
              <b>{number === 0 ? 'First' : number === places.length - 1 ? 'The rest' : 'Then'}</b>
              <Button size="small" onClick={() => takeAway(number)}>
                Without this place
              </Button>
            </div>
          )}
          <OnePlace form={form} place={place} number={number} isLast={number === places.length - 1} />
        </div>
      ))}
      {fault('places') && (
        <p className="field-fault" role="alert">
          {fault('places')}
        </p>
      )}
      {places.length < MOST_PLACES && (
        <Button size="small" onClick={add}>
          Another place for the rest
        </Button>
      )}
    </>
  );
}

interface One {
  readonly form: PoolForm;
  readonly place: DraftPlace;
  readonly number: number;
  readonly isLast: boolean;
}

function OnePlace({ form, place, number, isLast }: One) {
  const { data: estate } = estateApi.useEstateQuery({});
  const sites = estate?.sites.filter((site) => site.sizes.length > 0) ?? [];
  const site = sites.find((row) => row.name === place.site);
  const set = (change: DraftPlace) => form.setPlace(number, change);
  const fault = (field: string) => form.fault(`places.${number}.${field}`);
  return (
    <div className="fields">
      <Field label="Site" fault={fault('site')}>
        <Select
          aria-label="Site"
          placeholder="choose a site"
          value={place.site ?? null}
          onChange={(name) => {
            const chosen = sites.find((row) => row.name === name);
            if (chosen) set(usualPlaceOn(chosen));
          }}
          options={sites.map((row) => ({
            value: row.name,
            label: `${row.name}, ${count(row.cores.total - row.cores.used)} of ${count(row.cores.total)} cores free`,
          }))}
        />
      </Field>
      <Field label="Network" fault={fault('network')}>
        <Select
          aria-label="Network"
          placeholder="choose a network"
          value={place.network ?? null}
          onChange={(network) => network && set({ network })}
          options={
            site?.networks.map((row) => ({
              value: row.name,
              label: `${row.name}, ${count(row.addresses.total - row.addresses.used)} addresses free`,
            })) ?? []
          }
        />
      </Field>
      <StorePicker
        label={form.draft.clone === 'linked' ? 'Datastore of children' : 'Datastore'}
        site={site}
        fault={fault('datastore')}
        value={place.datastore}
        onChange={(datastore) => set({ datastore: datastore ?? undefined })}
      />
      {form.draft.clone === 'linked' && (
        <StorePicker
          label="Datastore of the parent"
          site={site}
          fault={fault('parentDatastore')}
          value={place.parentDatastore}
          asOther="with the children"
          onChange={(parentDatastore) => set({ parentDatastore })}
        />
      )}
      {form.draft.kind === 'dedicated' && (form.draft.dataGigabytes ?? 0) > 0 && (
        <StorePicker
          label="Datastore of personal disks"
          site={site}
          fault={fault('dataDatastore')}
          value={place.dataDatastore}
          asOther="with the others"
          onChange={(dataDatastore) => set({ dataDatastore })}
        />
      )}
      {!isLast && (
        <Field label="Hosts here at most" fault={fault('atMost')}>
          <InputNumber value={place.atMost ?? null} min={1} onChange={(atMost) => set({ atMost })} />
        </Field>
      )}
    </div>
  );
}

/** What is usually chosen on a site: its first network, and the datastore that is neither the dearest nor the slowest. */
function usualPlaceOn(site: Site): DraftPlace {
  const byPrice = [...site.datastores].sort((a, b) => a.price - b.price);
  return {
    site: site.name,
    network: site.networks[0]?.name,
    datastore: byPrice[Math.floor(byPrice.length / 2)]?.name,
    parentDatastore: null,
    dataDatastore: null,
  };
}

interface Store {
  readonly label: string;
  readonly site: Site | undefined;
  readonly fault: string | undefined;
  readonly value: string | null | undefined;
  /** How it is said that it lies where others do. */
  readonly asOther?: string;
  onChange(name: string | null): void;
}

const OTHER = '';

function StorePicker({ label, site, fault, value, asOther, onChange }: Store) {
  const stores =
    site?.datastores.map((row) => ({
      value: row.name,
      label: `${row.name}, ${size(row.capacityBytes - row.usedBytes)} free, ${count(row.operations.total)} operations/s`,
    })) ?? [];
  return (
    <Field label={label} fault={fault}>
      <Select
        aria-label={label}
        placeholder="choose a datastore"
        value={value ?? (asOther === undefined ? null : OTHER)}
        onChange={(name) => onChange(name === OTHER ? null : name)}
        options={asOther === undefined ? stores : [{ value: OTHER, label: asOther }, ...stores]}
      />
    </Field>
  );
}
