import { Input, Select } from 'antd';
import { Field } from './field.tsx';

interface Props {
  readonly label: string;
  /** RFC 5545 recurrence rule. */
  readonly rule: string;
  readonly usual: readonly { readonly value: string; readonly label: string }[];
  readonly fault: string | undefined;
  readonly onChange: (rule: string) => void;
}

const OTHER = 'other';

/** Chooses a recurrence in words, or takes one as a rule. */
export function RulePicker({ label, rule, usual, fault, onChange }: Props) {
  const known = usual.some((option) => option.value === rule);
  return (
    <Field label={label} fault={fault}>
      <Select
        aria-label={label}
        value={known ? rule : OTHER}
        options={[...usual, { value: OTHER, label: 'by a rule' }]}
        onChange={(value) => onChange(value === OTHER ? 'FREQ=MONTHLY;BYDAY=1SA' : value)}
      />
      {!known && (
        <Input
          aria-label={`${label}, rule`}
          className="mono"
          value={rule}
          onChange={(event) => onChange(event.target.value)}
        />
      )}
    </Field>
  );
}
