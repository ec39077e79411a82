/** What the models of shares and sign-ins assume; change it and everything follows. */
import { InputNumber } from 'antd';
import type { ShareInputs } from './share-model.ts';

const fields: readonly (readonly [keyof ShareInputs, string, string, number])[] = [
  ['growth', 'containers grow by', '0 to 1', 0.05],
  ['turnover', 'sessions that end in an hour', '0 to 1', 0.05],
  ['peak', 'busiest minute, times the mean', '×', 0.5],
  ['steadyOperations', 'steady reads', 'a second', 10],
  ['startHour', 'hosts start at', 'o’clock', 1],
  ['parallelMounts', 'mounts at once', '', 1],
  ['baseSeconds', 'sign-in without anything', 's', 0.5],
  ['profileSeconds', 'loading the profile', 's', 0.5],
];

interface Props {
  readonly inputs: ShareInputs;
  readonly onChange: (inputs: ShareInputs) => void;
}

export function ShareInputFields({ inputs, onChange }: Props) {
  return (
    <div className="placement-inputs">
      {fields.map(([field, label, unit, step]) => (
        <label key={field}>
          <span>{label}</span>
          <InputNumber
            size="small"
            min={field === 'parallelMounts' ? 1 : 0}
            {...(field === 'startHour' ? { max: 23 } : {})}
            step={step}
            value={inputs[field]}
            onChange={(value) => onChange({ ...inputs, [field]: value ?? 0 })}
          />
          <span className="quiet">{unit}</span>
        </label>
      ))}
    </div>
  );
}
