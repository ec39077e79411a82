/** What must be true after a step: the kind of check and what it looks for. */
import { Input, Select } from 'antd';
import { successCheckKinds, type SuccessCheck } from '@vatline/core/image/success-check';
import { Field } from '../../parts/field.tsx';

interface Props {
  readonly value: SuccessCheck | undefined;
  readonly faults: Record<string, string>;
  readonly onChange: (value: SuccessCheck | undefined) => void;
}

const fields: Record<SuccessCheck['kind'], readonly (readonly [string, string])[]> = {
  file: [
    ['path', 'File'],
    ['sha256', 'Its SHA-256'],
  ],
  registry: [
    ['key', 'Key of the value'],
    ['name', 'Name of the value'],
    ['value', 'It holds'],
  ],
  service: [
    ['name', 'Service that is there'],
    ['start', 'It starts'],
  ],
  version: [
    ['name', 'Application that is there'],
    ['atLeast', 'In at least'],
  ],
  'exit code': [],
};

const empty: Record<SuccessCheck['kind'], SuccessCheck> = {
  file: { kind: 'file', path: '' },
  registry: { kind: 'registry', key: '', name: '', value: '' },
  service: { kind: 'service', name: '' },
  version: { kind: 'version', name: '', atLeast: '' },
  'exit code': { kind: 'exit code', codes: [0] },
};

/** Fields that may be left empty, and are then left out. */
const optional = new Set(['sha256', 'start']);

export function SuccessCheckFields({ value, faults, onChange }: Props) {
  const given = value as unknown as Record<string, string> | undefined;
  const set = (name: string, text: string) =>
    onChange({ ...value, [name]: text === '' && optional.has(name) ? undefined : text } as SuccessCheck);
  return (
    <>
      <Field label="It succeeded when">
        <Select<string>
          aria-label="It succeeded when"
          value={value?.kind ?? 'none'}
          options={[
            { value: 'none', label: 'nothing is looked for' },
            ...successCheckKinds.map((kind) => ({ value: kind, label: kind })),
          ]}
          onChange={(kind) => onChange(kind === 'none' ? undefined : empty[kind as SuccessCheck['kind']])}
        />
      </Field>
      {value?.kind === 'exit code' && (
        <Field label="Exit codes" fault={faults['success.codes']}>
          <Input
            defaultValue={value.codes.join(', ')}
            onChange={(event) =>
              onChange({ kind: 'exit code', codes: event.target.value.match(/-?\d+/g)?.map(Number) ?? [] })
            }
          />
        </Field>
      )}
      {value &&
        fields[value.kind].map(([name, label]) => (
          <Field key={name} label={label} fault={faults[`success.${name}`]}>
            <Input value={given?.[name] ?? ''} onChange={(event) => set(name, event.target.value)} />
          </Field>
        ))}
    </>
  );
}
