/** A plan of one ring, written flat. */
import type { RingPlan, RolloutPlan } from '../src/rollout/forecast/plan.ts';

export type FlatPlan = Omit<RingPlan, 'name'> & Omit<RolloutPlan, 'rings'>;

export function oneRing({ from, resumeAt, limits, runs, seed, ...ring }: FlatPlan): RolloutPlan {
  return {
    from,
    ...(resumeAt === undefined ? {} : { resumeAt }),
    ...(limits && { limits }),
    rings: [{ name: 'all', ...ring }],
    runs,
    seed,
  };
}
