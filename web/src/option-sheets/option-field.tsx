/** One option of a suite, by its kind. */
import { Checkbox, Input, Select, Switch } from 'antd';
import type { OptionValue, SuiteOption } from '@vatline/core/option-sheet/suite';
import { Field } from '../parts/field.tsx';

interface Props {
  readonly option: SuiteOption;
  readonly value: OptionValue | undefined;
  readonly fault: string | undefined;
  readonly onChange: (value: OptionValue) => void;
}

/** More choices than these go into a list that can be searched. */
const AS_BOXES = 8;

export function OptionField({ option, value, fault, onChange }: Props) {
  if (option.kind === 'many')
    return (
      <fieldset className="option-many">
        <legend className="field-label">{option.label}</legend>
        <Many option={option} value={value} onChange={onChange} />
        {fault ? (
          <span className="field-fault" role="alert">
            {fault}
          </span>
        ) : (
          option.help && <span className="field-hint">{option.help}</span>
        )}
      </fieldset>
    );
  return (
    <Field label={option.label} fault={fault} hint={option.help} wide={option.kind === 'text'}>
      <Single option={option} value={value} onChange={onChange} />
    </Field>
  );
}

type PartProps = Pick<Props, 'option' | 'value' | 'onChange'>;

function Many({ option, value, onChange }: PartProps) {
  const list = Array.isArray(value) ? [...(value as readonly string[])] : [];
  const choices = [...(option.choices ?? [])];
  return choices.length <= AS_BOXES ? (
    <Checkbox.Group value={list} onChange={(next) => onChange(next)} options={choices} />
  ) : (
    <Select
      mode="multiple"
      aria-label={option.label}
      value={list}
      onChange={onChange}
      options={choices.map((one) => ({ value: one, label: one }))}
    />
  );
}

function Single({ option, value, onChange }: PartProps) {
  switch (option.kind) {
    case 'yes or no':
      return (
        <span className="row">
          <Switch aria-label={option.label} checked={value === true} onChange={onChange} />
          <span>{value === true ? 'yes' : 'no'}</span>
        </span>
      );
    case 'choice':
      return (
        <Select
          aria-label={option.label}
          value={typeof value === 'string' && value ? value : null}
          placeholder="choose"
          onChange={(next) => onChange(next ?? '')}
          options={(option.choices ?? []).map((one) => ({ value: one, label: one }))}
        />
      );
    default:
      return (
        <Input
          className="mono"
          value={typeof value === 'string' ? value : ''}
          onChange={(event) => onChange(event.target.value)}
        />
      );
  }
}
