/** The plan that is most likely wanted for so many hosts: in the small hours, a sixth of them at a time. */
import type { Plan } from '@vatline/contract/rollout';

export function firstPlan(hosts: number, zone: string): Plan {
  const batch = Math.max(1, Math.ceil(hosts / 6));
  return {
    window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
    zone,
    calendarIds: [],
    batch,
    maxUnavailable: batch,
    drainLimitMinutes: 25,
    reserve: 0.1,
    // One in ten of a large pool, and never fewer than three.
    stop: { failures: Math.max(3, Math.ceil(hosts / 10)), share: null, after: 10 },
    notice: null,
  };
}
