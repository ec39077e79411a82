/** How a pool is: what is wrong with it, the worst first, and whether its seats last through the next hours. */

export interface PoolCondition {
  readonly hosts: number;
  /** Hosts that take sessions. */
  readonly inService: number;
  readonly held: number;
  /** Switched off or suspended. */
  readonly off: number;
  /** Whether those are got ready by themselves when they are needed. */
  readonly isKeptReady: boolean;
  /** Hosts whose work ended in the middle. */
  readonly failed: number;
  /** Agents that have not reported for over two checks. */
  readonly silent: number;
  /** Scratch disks that are full soon. */
  readonly scratchSoon: number;
  readonly sessionLimit: number;
  /** Sessions expected by local hour, 24 of them. */
  readonly expected: readonly number[];
  readonly hourNow: number;
}

export const healthWhats = [
  'no hosts',
  'seats',
  'failed',
  'silent',
  'scratch',
  'tight',
  'off',
  'held',
] as const;
export type HealthWhat = (typeof healthWhats)[number];
export type HealthTone = 'trouble' | 'attention' | 'calm';

export interface HealthFinding {
  readonly what: HealthWhat;
  readonly tone: HealthTone;
  /** Hosts, or seats that are too few. */
  readonly count: number;
  /** The local hour of the shortest seats; null where it is not about seats. */
  readonly hour: number | null;
}

/** How far ahead seats are looked at, hours: until somebody is there again. */
const AHEAD = 12;
/** Less than this share of the seats left is tight. */
const TIGHT = 0.05;

/** What is wrong or worth knowing, the worst first; nothing where all is well. */
export function findingsOf(pool: PoolCondition): HealthFinding[] {
  if (pool.hosts === 0) return [{ what: 'no hosts', tone: 'attention', count: 0, hour: null }];
  const ready = pool.inService + (pool.isKeptReady ? pool.off : 0);
  const seats = ready * pool.sessionLimit;
  const { hour, expected } = busiestAhead(pool);
  const left = seats - expected;
  const counted = (what: HealthWhat, tone: HealthTone, count: number): HealthFinding[] =>
    count > 0 ? [{ what, tone, count, hour: null }] : [];
  return [
    ...(left < 0 ? [{ what: 'seats' as const, tone: 'trouble' as const, count: -left, hour }] : []),
    ...counted('failed', 'trouble', pool.failed),
    ...counted('silent', 'trouble', pool.silent),
    ...counted('scratch', 'attention', pool.scratchSoon),
    ...(left >= 0 && expected > 0 && left < seats * TIGHT
      ? [{ what: 'tight' as const, tone: 'attention' as const, count: left, hour }]
      : []),
    ...counted('off', 'calm', pool.isKeptReady ? 0 : pool.off),
    ...counted('held', 'calm', pool.held),
  ];
}

/** The hour of the next ones with the most sessions expected; of equal ones the first. */
export function busiestAhead({ expected, hourNow }: Pick<PoolCondition, 'expected' | 'hourNow'>): {
  readonly hour: number;
  readonly expected: number;
} {
  let best = { hour: hourNow, expected: expected[hourNow] ?? 0 };
  for (let ahead = 1; ahead < AHEAD; ahead++) {
    const hour = (hourNow + ahead) % 24;
    const sessions = expected[hour] ?? 0;
    if (sessions > best.expected) best = { hour, expected: sessions };
  }
  return best;
}

const weight: Record<HealthTone, number> = { trouble: 10_000, attention: 100, calm: 1 };

/** By which pools are ordered, the worst first: what is trouble outweighs everything else. */
export function badness(findings: readonly HealthFinding[]): number {
  return findings.reduce((sum, { tone, count }) => sum + weight[tone] * (1 + Math.min(count, 98)), 0);
}
