/** One field of a step, in the form its kind of value asks for. */
import { Input, InputNumber, Select } from 'antd';
import { type ScriptLanguage, ScriptField } from './script-field.tsx';
import { Field } from '../../parts/field.tsx';
import { UnitPicker } from '../../parts/unit-picker.tsx';
import { InstallerName, type Installed } from './installer-name.tsx';
import type { StepField as Spec } from './step-fields.ts';

interface Props {
  readonly spec: Spec;
  readonly value: unknown;
  readonly fault: string | undefined;
  /** What a script is written in. */
  readonly language?: ScriptLanguage | undefined;
  readonly onChange: (value: unknown) => void;
  /** A known installer was chosen. */
  readonly onInstaller: (installed: Installed) => void;
}

export function StepField({ spec, fault, ...rest }: Props) {
  return (
    <Field label={spec.label} fault={fault} wide={spec.wide ?? false} hint={spec.hint}>
      <Value spec={spec} {...rest} />
    </Field>
  );
}

function Value({ spec, value, language, onChange, onInstaller }: Omit<Props, 'fault'>) {
  const give = (next: unknown) => onChange(spec.optional && isEmpty(next) ? undefined : next);
  const options = spec.choices?.map((choice) => ({ value: choice, label: choice })) ?? [];
  switch (spec.form) {
    case 'script':
      return <ScriptField text={asText(value)} language={language} onChange={give} />;
    case 'list':
    case 'codes':
      return (
        <Input
          defaultValue={Array.isArray(value) ? value.join(', ') : ''}
          onChange={(event) => give(listOf(event.target.value, spec.form === 'codes'))}
        />
      );
    case 'number':
      return <InputNumber value={value as number} onChange={(n) => give(n ?? undefined)} />;
    case 'choice':
      return (
        <Select<string>
          aria-label={spec.label}
          value={(value ?? null) as string}
          allowClear={spec.optional ?? false}
          options={options}
          onChange={(choice: string | undefined) => give(choice)}
        />
      );
    case 'choices':
      return (
        <Select<string[]>
          mode="multiple"
          aria-label={spec.label}
          value={(value ?? []) as string[]}
          options={options}
          onChange={give}
        />
      );
    case 'unit':
      return <UnitPicker value={asText(value)} onChange={give} />;
    case 'installer':
      return <InstallerName value={asText(value)} onName={give} onInstaller={onInstaller} />;
    default:
      return <Input value={asText(value)} onChange={(event) => give(event.target.value)} />;
  }
}

function asText(value: unknown): string {
  return typeof value === 'string' ? value : '';
}

function isEmpty(value: unknown): boolean {
  return value === undefined || value === '' || (Array.isArray(value) && value.length === 0);
}

function listOf(text: string, numbers: boolean): (string | number)[] {
  const parts = text
    .split(numbers ? /[\s,]+/ : /,/)
    .map((part) => part.trim())
    .filter(Boolean);
  return numbers ? parts.filter((code) => /^-?\d+$/.test(code)).map(Number) : parts;
}
