/** How a host's disk comes from the image, and what becomes of what is written to it. */
import { InputNumber, Segmented, Select } from 'antd';
import { signOuts, type PoolDraft, type SignOut } from '@vatline/contract/pool/kinds';
import { poolsApi } from '../../api/pools.ts';
import { Field } from '../../parts/field.tsx';
import type { PoolForm } from './pool-form.ts';

const cloneHints = {
  full: 'each host has the whole image: more bytes, and nothing that all depend on',
  linked: 'hosts share a parent and keep only what differs: fewer bytes, made in minutes',
  network: 'hosts have no system disk: all stream one image, changed once for all at their next start',
} as const;

const signOutHints: Record<SignOut, string> = {
  keep: 'what was written stays until the next rebuild',
  'return to clean': 'what was written is thrown away at every sign-out',
};

function StreamFields({ form: { draft, set, fault } }: { form: PoolForm }) {
  const { data } = poolsApi.useStreamingQuery({});
  const stores = data?.stores ?? [];
  return (
    <>
      <Field label="Streaming store" fault={fault('store')}>
        <Select
          aria-label="Streaming store"
          value={draft.store ?? null}
          onChange={(store: string) => set({ store })}
          options={stores.map((one) => ({
            value: one.name,
            label: `${one.name}, ${one.streams.total - one.hosts} of ${one.streams.total} streams left`,
          }))}
        />
      </Field>
      <Field label="Scratch disk, GB" fault={fault('scratchGigabytes')} hint="empty again at every start">
        <InputNumber
          value={draft.scratchGigabytes ?? null}
          min={1}
          onChange={(n) => set({ scratchGigabytes: n ?? undefined })}
        />
      </Field>
    </>
  );
}

export function DiskFields({ form }: { form: PoolForm }) {
  const { draft, set, fault } = form;
  const { clone = 'linked', signOut = 'keep' } = draft;
  return (
    <div className="fields">
      {/* Machines of a chassis have no disk that an image could be put on. */}
      {draft.chassis ? null : (
        <Field label="Clones" fault={fault('clone')} hint={cloneHints[clone]}>
          <Segmented<NonNullable<PoolDraft['clone']>>
            value={clone}
            onChange={(value) => set({ clone: value })}
            options={[
              { value: 'linked', label: 'linked' },
              { value: 'full', label: 'full' },
              { value: 'network', label: 'streamed' },
            ]}
          />
        </Field>
      )}
      {clone === 'network' && <StreamFields form={form} />}
      <Field label="Days between rebuilds" fault={fault('days')}>
        <InputNumber value={draft.days ?? null} min={1} onChange={(n) => set({ days: n ?? undefined })} />
      </Field>
      <Field label="At sign-out" fault={fault('signOut')} hint={signOutHints[signOut]} wide>
        <Segmented<SignOut>
          value={signOut}
          onChange={(value) => set({ signOut: value })}
          options={[...signOuts]}
        />
      </Field>
    </div>
  );
}
