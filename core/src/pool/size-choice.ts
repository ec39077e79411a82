/** Which machine size for how many people, from what they used: how many each holds, and what that costs. */
import { HOURS_A_MONTH } from './assumptions.ts';
import type { UsageMean } from './assessment.ts';
import type { HostSize } from './fit.ts';
import { adviseSize } from './sizing.ts';

export interface SizeOffered extends HostSize {
  readonly name: string;
  /** Money for an hour in which it is on. */
  readonly pricePerHour: number;
}

export interface SizeQuestion {
  readonly means: readonly UsageMean[];
  readonly sizes: readonly SizeOffered[];
  /** People at the busiest moment. */
  readonly people: number;
  /** People that are to share a host at most; a size that holds more is not asked to. */
  readonly sessionLimit: number;
  /** Memory that the system takes with nobody signed in. */
  readonly baseMemoryBytes: number;
  readonly seed: string;
}

export interface SizeAnswer {
  readonly name: string;
  /** People that one host holds, at most the limit; 0 where not even one finds enough. */
  readonly sessionsHeld: number;
  readonly binds: 'processors' | 'memory' | 'neither';
  /** Hosts for all of them; null where not even one person finds enough. */
  readonly hosts: number | null;
  /** Money a month if all are always on. */
  readonly pricePerMonth: number | null;
  /** What it has over 1.5 times of what the limit needs. */
  readonly oversized: readonly ('processors' | 'memory')[];
}

/** Each size, the cheapest first, those that hold nobody last. */
export function chooseSize({ sizes, people, sessionLimit, ...asked }: SizeQuestion): SizeAnswer[] {
  return sizes
    .map((size): SizeAnswer => {
      const { processors, memoryBytes } = size;
      const advice = adviseSize({ ...asked, processors, memoryBytes, sessions: Math.max(1, sessionLimit) });
      const held = Math.min(advice.sessionsHeld, sessionLimit);
      const hosts = held === 0 ? null : Math.ceil(people / held);
      return {
        name: size.name,
        sessionsHeld: held,
        binds: advice.binds,
        hosts,
        pricePerMonth: hosts === null ? null : hosts * size.pricePerHour * HOURS_A_MONTH,
        oversized: advice.oversized,
      };
    })
    .sort((a, b) => (a.pricePerMonth ?? Infinity) - (b.pricePerMonth ?? Infinity));
}
