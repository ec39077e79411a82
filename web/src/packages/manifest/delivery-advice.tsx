/** Where an application should live: a verdict for each delivery, what it costs a year, what would change that. */
import { useState } from 'react';
import {
  adviseOnPlacement,
  placementDefaults,
  placements,
  type Flip,
  type Placement,
  type PlacementInputs,
} from '@vatline/core/package/placement';
import type { Verdict } from '@vatline/core/package/verdict';
import { count } from '../../parts/format.ts';
import { inputNames, PlacementInputsButton } from './placement-inputs.tsx';

const names: Record<Verdict['delivery'], string> = {
  container: 'Container',
  'in the image': 'In the image',
  installed: 'Installed',
  published: 'As a single app',
};

interface Props {
  readonly verdicts: readonly Verdict[];
  readonly measured: Pick<PlacementInputs, 'people' | 'hosts' | 'gigabytes'>;
}

export function DeliveryAdvice({ verdicts, measured }: Props) {
  const [inputs, setInputs] = useState<PlacementInputs>({ ...placementDefaults, ...measured });
  const allowed = placements.filter((placement) =>
    verdicts.some((row) => row.delivery === placement && row.suitability !== 'does not suit'),
  );
  const { costs, best, flips } = adviseOnPlacement(inputs, allowed);
  const dearest = Math.max(...placements.map((placement) => costs[placement]));
  return (
    <>
      <h2>Where should it live?</h2>
      <table className="table deliveries">
        <tbody>
          {verdicts.map((verdict) => (
            <DeliveryRow
              key={verdict.delivery}
              verdict={verdict}
              isBest={verdict.delivery === best}
              {...(isPlacement(verdict.delivery)
                ? { cost: costs[verdict.delivery], share: costs[verdict.delivery] / dearest }
                : {})}
            />
          ))}
        </tbody>
      </table>
      <p className="quiet">
        A year, {count(inputs.people)} people, {count(inputs.hosts)} hosts. {flipSentence(flips)}{' '}
        <PlacementInputsButton inputs={inputs} onChange={setInputs} />
      </p>
    </>
  );
}

function isPlacement(delivery: string): delivery is Placement {
  return (placements as readonly string[]).includes(delivery);
}

interface RowProps {
  readonly verdict: Verdict;
  readonly isBest: boolean;
  readonly cost?: number;
  readonly share?: number;
}

function DeliveryRow({ verdict, isBest, cost, share }: RowProps) {
  const { delivery, suitability, reasons } = verdict;
  const tone = { suits: 'good', 'suits with care': 'attention', 'does not suit': 'trouble' }[suitability];
  return (
    <tr>
      <td className={isBest ? 'strong' : ''}>
        {names[delivery]}
        {share !== undefined && (
          <span className="cost-bar" aria-hidden style={{ width: `${Math.max(2, share * 100)}%` }} />
        )}
      </td>
      <td>
        <span className={tone}>{suitability}</span>
        {reasons.map((reason) => (
          <span key={reason.finding} className="quiet reason">
            {reason.text}
          </span>
        ))}
      </td>
      <td className="number cost">{cost === undefined ? '' : `€ ${count(Math.round(cost))}`}</td>
    </tr>
  );
}

function flipSentence([nearest]: readonly Flip[]): string {
  if (!nearest) return 'No single assumption would change that.';
  const [name, unit] = inputNames[nearest.input];
  const value = nearest.at >= 10 ? count(Math.round(nearest.at)) : nearest.at.toFixed(2);
  const amount = unit === '€' ? `€ ${value}` : unit === '0 to 1' || unit === '' ? value : `${value} ${unit}`;
  return `“${names[nearest.to]}” would cost the same at ${name}: ${amount}.`;
}
