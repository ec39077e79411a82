/** How long a change takes that rides the agents' checks, while the host stays in service. */

import type { WorkTime } from './usual-work.ts';

export interface AgentChecks {
  /** Minutes between two checks of an agent. */
  readonly everyMinutes: number;
  /** Minutes that attaching takes, once it has looked. */
  readonly attachMinutes: number;
}

/**
 * Minutes from the order until the agent has reported that all is well. `wait` is the share of an
 * interval until it looks first, 0 to 1: agents look at seconds of their own, so that it is drawn
 * evenly. It attaches then, and says how that went at the first check after.
 */
export function minutesByChecks({ everyMinutes, attachMinutes }: AgentChecks, wait: number): number {
  if (everyMinutes === 0) return attachMinutes;
  return wait * everyMinutes + (Math.floor(attachMinutes / everyMinutes) + 1) * everyMinutes;
}

/** The same as a time of work: its median, and what 9 in 10 keep to. */
export function workByChecks(checks: AgentChecks): WorkTime {
  const [medianMinutes, p90Minutes] = [minutesByChecks(checks, 0.5), minutesByChecks(checks, 0.9)];
  return { medianMinutes, p90Minutes, learnedFrom: 0 };
}
