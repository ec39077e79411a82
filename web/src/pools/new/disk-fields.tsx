/** How a host's disk comes from the image, and what becomes of what is written to it. */
import { InputNumber, Segmented } from 'antd';
import { signOuts, type PoolDraft, type SignOut } from '@vatline/contract/pool/kinds';
import { Field } from '../../parts/field.tsx';
import type { PoolForm } from './pool-form.ts';

const cloneHints = {
  full: 'each host has the whole image: more bytes, and nothing that all depend on',
  linked: 'hosts share a parent and keep only what differs: fewer bytes, made in minutes',
} as const;

const signOutHints: Record<SignOut, string> = {
  keep: 'what was written stays until the next rebuild',
  'return to clean': 'what was written is thrown away at every sign-out',
};

export function DiskFields({ form: { draft, set, fault } }: { form: PoolForm }) {
  const { clone = 'linked', signOut = 'keep' } = draft;
  return (
    <div className="fields">
      <Field label="Clones" fault={fault('clone')} hint={cloneHints[clone]}>
        <Segmented<NonNullable<PoolDraft['clone']>>
          value={clone}
          onChange={(value) => set({ clone: value })}
          options={['linked', 'full']}
        />
      </Field>
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
