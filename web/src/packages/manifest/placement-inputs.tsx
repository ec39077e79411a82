/** The assumptions behind the yearly costs, to be seen and changed. */
import { InputNumber } from 'antd';
import type { PlacementInput, PlacementInputs } from '@vatline/core/package/placement';
import { HowButton } from '../../parts/how.tsx';

/** What each input is called, and its unit. */
export const inputNames: Record<PlacementInput, readonly [string, string]> = {
  people: ['people with a desktop', ''],
  share: ['share of them who use it', '0 to 1'],
  hosts: ['hosts', ''],
  releasesPerYear: ['releases a year', ''],
  attachSeconds: ['seconds added to a sign-in', 's'],
  signInsPerPersonYear: ['sign-ins of a person a year', ''],
  attachedAhead: ['share of hosts that attach it ahead', '0 to 1'],
  gigabytes: ['size', 'GB'],
  minutesPerPackaging: ['work for a package', 'min'],
  minutesPerImage: ['work for an image', 'min'],
  rebuildHoursPerHost: ['a host is out for a rebuild', 'h'],
  failureRate: ['share of installs that fail', '0 to 1'],
  minutesPerFailure: ['work for a failed install', 'min'],
  engineerHour: ["an engineer's hour", '€'],
  userHour: ["a waiting person's hour", '€'],
  hostHour: ["a host's hour", '€'],
  gigabyteYear: ['a gigabyte kept for a year', '€'],
};

interface Props {
  readonly inputs: PlacementInputs;
  readonly onChange: (inputs: PlacementInputs) => void;
}

export function PlacementInputsButton({ inputs, onChange }: Props) {
  const form = (
    <div className="placement-inputs">
      <p className="quiet">
        Image: releases × (work + rebuilds of all hosts). Container: releases × work, and everybody’s wait at
        sign-in, and storage. Installed: releases × work, and failed installs.
      </p>
      {(Object.keys(inputNames) as PlacementInput[]).map((input) => (
        <label key={input}>
          <span>{inputNames[input][0]}</span>
          <InputNumber
            size="small"
            min={0}
            value={Math.round(inputs[input] * 1000) / 1000}
            onChange={(value) => onChange({ ...inputs, [input]: value ?? 0 })}
          />
          <span className="quiet">{inputNames[input][1]}</span>
        </label>
      ))}
    </div>
  );
  return <HowButton content={form} placement="leftTop" />;
}
