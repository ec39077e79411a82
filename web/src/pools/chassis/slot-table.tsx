/** The slots of a chassis: what stands in each, and choosing those that hosts are made of. */
import { Button, Checkbox } from 'antd';
import { Link } from 'react-router';
import type { ChassisShown, ChassisSlot } from '@vatline/contract/chassis';
import { isFree } from '@vatline/core/pool/chassis';
import { plural, size } from '../../parts/format.ts';

interface Props {
  readonly chassis: ChassisShown;
  readonly chosen: readonly number[];
  choose(slots: number[]): void;
}

export function SlotTable({ chassis, chosen, choose }: Props) {
  const free = chassis.slots.filter(isFree).map((slot) => slot.slot);
  const isAll = free.length > 0 && free.every((slot) => chosen.includes(slot));
  const toggle = (slot: number) =>
    choose(
      chosen.includes(slot) ? chosen.filter((one) => one !== slot) : [...chosen, slot].sort((a, b) => a - b),
    );
  return (
    <table className="table slot-table">
      <thead>
        <tr>
          <th>
            Slot{' '}
            <Button size="small" disabled={free.length === 0} onClick={() => choose(isAll ? [] : free)}>
              {isAll ? 'Choose none' : 'Choose all free'}
            </Button>
          </th>
          <th>Serial number</th>
          <th className="number">Cores</th>
          <th className="number">Memory</th>
          <th>What it is</th>
        </tr>
      </thead>
      <tbody>
        {chassis.slots.map((slot) => (
          <tr key={slot.slot}>
            <td>
              <Checkbox
                checked={chosen.includes(slot.slot)}
                disabled={!isFree(slot)}
                onChange={() => toggle(slot.slot)}
              >
                {slot.slot}
              </Checkbox>
            </td>
            <td className="mono">{slot.serial || '–'}</td>
            <td className="number">{slot.processors || '–'}</td>
            <td className="number">{slot.memoryBytes === 0 ? '–' : size(slot.memoryBytes)}</td>
            <td>
              <Standing slot={slot} />
            </td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

function Standing({ slot: { state, host, pool, isBeingMade } }: { slot: ChassisSlot }) {
  if (host !== null)
    return (
      <>
        {pool ? <Link to={`/pools/${pool.id}?host=${host}`}>{host}</Link> : host}{' '}
        <span className="quiet">
          {isBeingMade ? 'is being made for' : 'of'} {pool?.name ?? 'no pool that Vat Line knows'}
        </span>
      </>
    );
  if (state === 'silent') return <span className="attention">does not answer</span>;
  return state === 'answers' ? <>free</> : <span className="quiet">not asked yet</span>;
}

/** How many are hosts and how many do not answer, as a sentence; empty where none. */
export function standingOf({ slots }: Pick<ChassisShown, 'slots'>): string {
  const silent = slots.filter((slot) => slot.state === 'silent' && slot.host === null).length;
  const hosts = slots.filter((slot) => slot.host !== null).length;
  const parts = [
    hosts > 0 ? `${plural(hosts, 'machine')} ${hosts === 1 ? 'is a host' : 'are hosts'}` : '',
    silent > 0 ? `${plural(silent, 'slot')} ${silent === 1 ? 'does' : 'do'} not answer` : '',
  ].filter((part) => part !== '');
  return parts.length === 0 ? '' : `${parts.join(', ')}. `;
}
