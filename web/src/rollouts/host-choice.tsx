/** Which hosts a rollout takes: those that run something else, or all made anew; of the pool, or only some. */
import { Select } from 'antd';
import { useState } from 'react';
import type { RolloutRequest } from '@vatline/contract/rollout';
import { poolsApi } from '../api/pools.ts';
import { Chips } from '../parts/chips.tsx';
import { Field } from '../parts/field.tsx';
import { plural } from '../parts/format.ts';

type Choice = Pick<RolloutRequest, 'isRemake' | 'onlyHosts'>;

interface Props {
  readonly pool: { readonly id: string; readonly name: string };
  readonly choice: Choice;
  readonly fault: (path: string) => string | undefined;
  onChange(choice: Partial<Choice>): void;
}

const ways = [
  ['differ', 'those that differ'],
  ['anew', 'all, made anew'],
] as const;

/** Faults at these paths stand beside their fields. */
export const choicePaths = (hosts: readonly string[]) => [
  'onlyHosts',
  ...hosts.map((_one, i) => `onlyHosts.${i}`),
];

export function HostChoice({ pool, choice: { isRemake, onlyHosts }, fault, onChange }: Props) {
  const [sought, setSought] = useState('');
  const { data: hosts } = poolsApi.usePoolHostsInfiniteQuery({
    params: { id: pool.id },
    query: { q: sought, limit: 30 },
  });
  const names = hosts?.pages.flatMap((page) => page.rows.map((host) => host.name)) ?? [];
  return (
    <>
      <h2>Which hosts</h2>
      <Chips
        label="Which hosts"
        options={ways}
        chosen={isRemake ? 'anew' : 'differ'}
        onPress={(way) => onChange({ isRemake: way === 'anew' })}
      />
      <Field
        label="Only these"
        fault={choicePaths(onlyHosts).map(fault).find(Boolean)}
        hint={
          onlyHosts.length === 0
            ? `all of ${pool.name}; choose one to try it before the rest`
            : `${plural(onlyHosts.length, 'host')}; the pool as a whole goes on with what it runs`
        }
      >
        <Select
          aria-label="Only these"
          mode="multiple"
          allowClear
          placeholder="all hosts"
          value={[...onlyHosts]}
          filterOption={false}
          onSearch={setSought}
          onChange={(chosen: string[]) => onChange({ onlyHosts: chosen })}
          options={names.map((name) => ({ value: name, label: name }))}
        />
      </Field>
    </>
  );
}
