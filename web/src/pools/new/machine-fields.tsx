/** The machines of a chassis that hosts are made of, and the network that they are on. */
import { Select } from 'antd';
import { Link } from 'react-router';
import type { PoolDraft } from '@vatline/contract/pool/kinds';
import { estateApi } from '../../api/estate.ts';
import { Field } from '../../parts/field.tsx';
import { count } from '../../parts/format.ts';
import type { PoolForm } from './pool-form.ts';

export function MachineFields({ form }: { form: PoolForm }) {
  const { draft, fault, setPlace } = form;
  const { data: estate } = estateApi.useEstateQuery({});
  const site = estate?.sites.find((row) => row.name === draft.places?.[0]?.site);
  const slots = draft.slots ?? [];
  const slotFault = slotFaultOf(form);
  return (
    <div className="fields">
      <Field label="Machines" fault={fault('chassis') ?? slotFault ?? fault('places.0.site')}>
        <div>
          {slotsInWords(slots)} of <b>{draft.chassis}</b> on {draft.places?.[0]?.site},{' '}
          <Link to={`/pools/chassis?chassis=${draft.chassis ?? ''}`}>choose others</Link>
        </div>
      </Field>
      <Field label="Network" fault={fault('places.0.network')}>
        <Select
          aria-label="Network"
          placeholder="choose a network"
          value={draft.places?.[0]?.network ?? null}
          onChange={(network) => network && setPlace(0, { network })}
          options={
            site?.networks.map((row) => ({
              value: row.name,
              label: `${row.name}, ${count(row.addresses.total - row.addresses.used)} addresses free`,
            })) ?? []
          }
        />
      </Field>
    </div>
  );
}

/** What is wrong with the choice of slots; of several the first. */
function slotFaultOf({ draft, fault }: PoolForm): string | undefined {
  const each = (draft.slots ?? []).map((_slot, i) => fault(`slots.${i}`));
  return fault('slots') ?? each.find((one) => one !== undefined);
}

/** Runs of numbers together: `slots 1 to 10 and 12`. */
export function slotsInWords(slots: readonly number[]): string {
  if (slots.length === 0) return 'no slot';
  const runs: [number, number][] = [];
  for (const slot of [...slots].sort((a, b) => a - b)) {
    const last = runs.at(-1);
    if (last && slot === last[1] + 1) last[1] = slot;
    else runs.push([slot, slot]);
  }
  const words = runs.map(([from, to]) => (from === to ? `${from}` : `${from} to ${to}`));
  const list = words.length === 1 ? words[0] : `${words.slice(0, -1).join(', ')} and ${words.at(-1)}`;
  return `${slots.length === 1 ? 'slot' : 'slots'} ${list}`;
}

/** Paths of the faults that it shows. */
export function machinePaths({ slots = [] }: PoolDraft): string[] {
  return ['chassis', 'slots', 'store', 'scratchGigabytes', ...slots.map((_slot, i) => `slots.${i}`)];
}
