/** What a new order of rings, or one more ring, most likely is. */
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { PlannedRing, RingGate } from '@vatline/contract/rings/ring';
import { firstPlan } from '../first-plan.ts';

const careful: RingGate = {
  finishedShare: 1,
  soakHours: 48,
  needsApproval: false,
  watchesSignIns: true,
  goesBack: false,
};

type Pool = Pick<PoolSummary, 'id' | 'name' | 'hosts' | 'lineId'>;

/** The smallest pool of the line that most pools are made from, and then the others; of a single one a tenth, and then the rest. */
export function firstRings(pools: readonly Pool[], zone: string): PlannedRing[] {
  const byLine = new Map<string, Pool[]>();
  for (const pool of pools) byLine.set(pool.lineId, [...(byLine.get(pool.lineId) ?? []), pool]);
  const [most = []] = [...byLine.values()].sort((a, b) => b.length - a.length);
  const own = most.toSorted((a, b) => a.hosts - b.hosts);
  const [only] = own;
  if (own.length > 1) return own.map((pool) => ringOf(pool, zone));
  if (!only) return [];
  const pilot = ringOf(only, zone);
  return [
    { ...pilot, name: 'First tenth', take: { by: 'share', percent: 10, order: 'sites' } },
    { ...pilot, name: 'The rest' },
  ];
}

/** With two days of soak behind it. */
export function ringOf({ id, name, hosts }: Pool, zone: string): PlannedRing {
  return {
    name,
    poolId: id,
    take: { by: 'rest' },
    plan: firstPlan(hosts, zone),
    gate: careful,
  };
}
