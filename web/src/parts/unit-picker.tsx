import { Select } from 'antd';
import { useState } from 'react';
import { directoryApi } from '../api/directory.ts';
import { plural } from './format.ts';

interface Props {
  readonly value: string | undefined;
  onChange(dn: string): void;
  /** Whether what was typed or pasted is taken as it is, for whoever reads it to judge. */
  readonly takesText?: boolean;
}

/** Picks an organisational unit of the directory, so that nobody has to type its path. */
export function UnitPicker({ value, onChange, takesText = false }: Props) {
  const { data: units = [] } = directoryApi.useUnitsQuery({});
  const [typed, setTyped] = useState('');
  const options = units.map((unit) => ({
    value: unit.dn,
    label: `${unit.name}, ${plural(unit.computers, 'computer')}: ${unit.dn}`,
  }));
  const asTyped =
    takesText && typed.includes('=') && !units.some((unit) => unit.dn === typed)
      ? [{ value: typed, label: typed }]
      : [];
  return (
    <Select
      showSearch
      onSearch={setTyped}
      optionFilterProp="label"
      placeholder="choose a unit"
      aria-label="Organisational unit"
      value={value || null}
      onChange={(dn) => dn && onChange(dn)}
      options={[...options, ...asTyped]}
    />
  );
}
