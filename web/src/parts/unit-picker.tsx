import { Select } from 'antd';
import { estateApi } from '../api/estate.ts';
import { plural } from './format.ts';

/** Picks an organisational unit of the directory, so that nobody types its path. */
export function UnitPicker({
  value,
  onChange,
}: {
  value: string | undefined;
  onChange: (dn: string) => void;
}) {
  const { data: units = [] } = estateApi.useUnitsQuery({});
  return (
    <Select
      showSearch
      optionFilterProp="label"
      placeholder="choose a unit"
      aria-label="Organisational unit"
      value={value || null}
      onChange={(dn) => dn && onChange(dn)}
      options={units.map((unit) => ({
        value: unit.dn,
        label: `${unit.name}, ${plural(unit.computers, 'computer')}: ${unit.dn}`,
      }))}
    />
  );
}
