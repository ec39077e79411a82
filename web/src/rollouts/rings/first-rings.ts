/** What a new order of rings, or one more ring, most likely is. */
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { PlannedRing, RingGate } from '@vatline/contract/rings/ring';

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

/** At night, a sixth of the pool at a time, two days of soak behind it. */
export function ringOf({ id, name, hosts }: Pool, zone: string): PlannedRing {
  const batch = Math.max(1, Math.ceil(hosts / 6));
  return {
    name,
    poolId: id,
    take: { by: 'rest' },
    plan: {
      window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00' },
      zone,
      calendarIds: [],
      batch,
      maxUnavailable: batch,
      drainLimitMinutes: 25,
      reserve: 0.1,
      // One in ten of a large pool, and never fewer than three.
      stop: { failures: Math.max(3, Math.ceil(hosts / 10)), share: null, after: 10 },
    },
    gate: careful,
  };
}
