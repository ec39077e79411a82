/** A plan as tests begin with it, and the request of a rollout by it. */
import type { Plan, RolloutRequest } from '@vatline/contract/rollout';

export const usualPlan: Plan = {
  window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
  zone: 'Europe/Dublin',
  calendarIds: [],
  batch: 4,
  maxUnavailable: 4,
  drainLimitMinutes: 25,
  reserve: 0.1,
  stop: null,
  notice: null,
};

export const usualRequest: RolloutRequest = {
  ...usualPlan,
  poolId: 'p1',
  imageVersionId: 'i15',
  packageVersionIds: [],
  isRemake: false,
  onlyHosts: [],
};
