/** What is looked for on a host: to know whether it applies there, or is there already. */
import { Input, Select } from 'antd';
import type { HostRule } from '@vatline/core/installed/installation';

interface Props {
  readonly label: string;
  readonly rules: readonly HostRule[];
  readonly none: string;
  readonly onChange: (rules: HostRule[]) => void;
  readonly faultAt: (i: number) => string | undefined;
}

const fresh: Record<HostRule['kind'], HostRule> = {
  version: { kind: 'version', name: '', atLeast: '' },
  file: { kind: 'file', path: '' },
  registry: { kind: 'registry', key: '', name: '', value: '' },
  service: { kind: 'service', name: '' },
  script: { kind: 'script', text: 'exit 0' },
};

const kinds: readonly { readonly value: HostRule['kind']; readonly label: string }[] = [
  { value: 'version', label: 'application in a version' },
  { value: 'file', label: 'file' },
  { value: 'registry', label: 'registry value' },
  { value: 'service', label: 'service' },
  { value: 'script', label: 'script that ends with 0' },
];

/** Fields of each kind, and what stands in them while they are empty. */
const fields: Record<HostRule['kind'], readonly (readonly [string, string])[]> = {
  version: [
    ['name', 'application'],
    ['atLeast', 'this version or newer'],
  ],
  file: [['path', 'Program files/…/program.exe']],
  registry: [
    ['key', 'key'],
    ['name', 'name'],
    ['value', 'value'],
  ],
  service: [['name', 'service']],
  script: [['text', 'exit 0']],
};

export function HostRules({ label, rules, none, onChange, faultAt }: Props) {
  const set = (i: number, rule: HostRule) => onChange(rules.map((one, n) => (n === i ? rule : one)));
  return (
    <div role="group" aria-label={label}>
      {rules.length === 0 && <p className="quiet">{none}</p>}
      {rules.map((rule, i) => (
        <div key={i} className="host-rule">
          <Select
            aria-label={`${label}, kind ${i + 1}`}
            value={rule.kind}
            onChange={(kind) => set(i, fresh[kind])}
            options={[...kinds]}
          />
          {fields[rule.kind].map(([field, placeholder]) => (
            <Input
              key={field}
              aria-label={`${label}, ${field} ${i + 1}`}
              placeholder={placeholder}
              value={(rule as unknown as Record<string, string>)[field] ?? ''}
              onChange={(event) => set(i, { ...rule, [field]: event.target.value } as HostRule)}
            />
          ))}
          <button
            type="button"
            className="plain-button"
            aria-label={`Remove rule ${i + 1} of ${label}`}
            onClick={() => onChange(rules.filter((_one, n) => n !== i))}
          >
            remove
          </button>
          {faultAt(i) && (
            <span className="field-fault" role="alert">
              {faultAt(i)}
            </span>
          )}
        </div>
      ))}
      <button type="button" className="plain-button" onClick={() => onChange([...rules, fresh.file])}>
        add a rule
      </button>
    </div>
  );
}
