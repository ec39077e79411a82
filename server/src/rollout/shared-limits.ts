/** What rollouts share: the hosts that the hypervisor of a site makes at the same time. */
import type { SharedLimit } from '@vatline/core/rollout/forecast/plan';
import { atWorkStages } from '@vatline/core/rollout/host-state';
import type { Parts } from '../platform/parts.ts';
import type { PoolStore } from '../pool/pools.ts';

export class SharedLimits {
  /** Rollouts that waited for others at their last look. */
  private readonly waiting = new Set<string>();

  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
  ) {}

  /** Of a pool that stands on several sites the narrowest: which of them a host takes is known when its turn comes. */
  async ofPool(poolId: string): Promise<SharedLimit[]> {
    const own = new Set((await this.pools.placesOf(poolId)).map(({ site }) => site));
    const all = await this.parts.estate.hypervisor.makesAtOnce();
    return [...all].flatMap(([name, atOnce]) => (own.has(name) ? [{ name, atOnce }] : []));
  }

  /** Hosts of a pool that may still begin beside those at work on its sites, for whatever rollout. */
  async slotsFor(poolId: string): Promise<number> {
    const limits = await this.ofPool(poolId);
    const taken = await this.atWork(limits.map(({ name }) => name));
    return Math.min(Infinity, ...limits.map(({ name, atOnce }) => atOnce - (taken.get(name) ?? 0)));
  }

  /** Keeps in mind whether a rollout waits for others. */
  note(rolloutId: string, isHeld: boolean): void {
    if (isHeld) this.waiting.add(rolloutId);
    else this.waiting.delete(rolloutId);
  }

  /** Those that a host which has ended may let go on. */
  get held(): readonly string[] {
    return [...this.waiting];
  }

  private async atWork(sites: readonly string[]): Promise<Map<string, number>> {
    const rows = await this.parts.db
      .selectFrom('rollout_host')
      .innerJoin('rollout', 'rollout.id', 'rollout_id')
      .innerJoin('host', 'host.id', 'host_id')
      .innerJoin('pool_place', (join) =>
        join.onRef('pool_place.pool_id', '=', 'host.pool_id').onRef('pool_place.place', '=', 'host.place'),
      )
      .select(({ fn }) => ['site', fn.countAll<number>().as('n')])
      .where('rollout.ended_ms', 'is', null)
      .where('stage', 'in', atWorkStages)
      .where('way', '!=', 'attach in service')
      .where('site', 'in', sites)
      .groupBy('site')
      .execute();
    return new Map(rows.map(({ site, n }) => [site, n]));
  }
}
