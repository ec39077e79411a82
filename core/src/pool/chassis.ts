/** Machines that stand in a chassis: which of them hosts can be made of. */
import type { Fault } from '../result.ts';

/** `not asked`: it has not been its turn yet. */
export const slotStates = ['answers', 'silent', 'not asked'] as const;
export type SlotState = (typeof slotStates)[number];

/** The scratch disk of a physical machine is in the machine. */
export const LOCAL_DISK = 'local';
/** What the size of hosts is called that are what they were found to be. */
export const AS_FOUND = 'as found';

export interface SlotStanding {
  readonly slot: number;
  readonly state: SlotState;
  /** The host that was made of it, or that is being made; null for one that is free. */
  readonly host: string | null;
}

/** Whether a host can be made of it. */
export function isFree({ state, host }: SlotStanding): boolean {
  return state === 'answers' && host === null;
}

/** What stands in the way of making just so many hosts of some slots, at `slots`, `slots.<index>` and `count`. */
export function slotFaults(
  chassis: string,
  wanted: readonly number[],
  count: number | undefined,
  known: readonly SlotStanding[],
): Fault[] {
  if (wanted.length === 0)
    return [{ path: 'slots', message: `choose the machines of ${chassis} that hosts are made of` }];
  const faults = wanted.flatMap((number, i): Fault[] => {
    const why =
      wanted.indexOf(number) < i
        ? `slot ${number} is there twice`
        : slotRefusal(
            chassis,
            number,
            known.find((one) => one.slot === number),
          );
    return why === undefined ? [] : [{ path: `slots.${i}`, message: why }];
  });
  if (count !== undefined && count !== wanted.length)
    faults.push({
      path: 'count',
      message: `must be ${wanted.length}, since so many machines of ${chassis} are chosen`,
    });
  return faults;
}

function slotRefusal(chassis: string, number: number, slot: SlotStanding | undefined): string | undefined {
  if (!slot) return `${chassis} has no slot ${number}`;
  if (slot.host !== null) return `slot ${number} of ${chassis} is ${slot.host} already`;
  if (slot.state === 'silent') return `slot ${number} of ${chassis} does not answer; look through it again`;
  if (slot.state === 'not asked')
    return `slot ${number} of ${chassis} was not asked yet; look through it first`;
  return undefined;
}
