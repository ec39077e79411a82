/** From planned rings and what goes through them to rollouts that can be forecast and started. */
import type { PlannedRing, RolloutContents } from '@vatline/contract/rings/ring';
import type { RolloutRequest } from '@vatline/contract/rollout';
import type { Fault } from '@vatline/core/result';
import { openGate, type RolloutPlan } from '@vatline/core/rollout/forecast/plan';
import { chainOf, type ChainRing } from '@vatline/core/rollout/rings/chain';
import { hostsOfRings, type PlacedHost } from '@vatline/core/rollout/rings/take';
import { listWindows } from '@vatline/core/time/windows';
import type { Instant } from '@vatline/core/time/instant';
import type { Parts } from '../../platform/parts.ts';
import { invalid } from '../../platform/problem.ts';
import type { PoolRow } from '../../pool/tables.ts';
import type { PlannedRollout, Plans } from '../plans.ts';
import { refuseUnknownCalendars, requestFaults, windowPath } from '../start.ts';
import { RingContents } from './contents.ts';

/** A ring with the rollout of its pool, as it would be now. */
export interface PlannedPart {
  readonly ring: PlannedRing;
  readonly request: RolloutRequest;
  readonly planned: PlannedRollout;
}

interface Options {
  readonly seed: number;
  /** The instant from which windows count. */
  readonly from: Instant;
}

export class RingPlanner {
  constructor(
    private readonly parts: Parts,
    readonly plans: Plans,
  ) {}

  /** Each ring with its rollout. Throws a refusal with everything that is wrong. */
  async partsOf(
    rings: readonly PlannedRing[],
    contents: RolloutContents,
    options: Options,
  ): Promise<PlannedPart[]> {
    const names = await this.hostNames(rings);
    const found = await RingContents.open(this.parts, contents);
    const faults: Fault[] = [...found.faults];
    const planned: PlannedPart[] = [];
    for (const [i, ring] of rings.entries()) {
      const part = await this.partOf(ring, names[i] ?? [], found, options);
      planned.push(part);
      faults.push(...(await this.faultsOf(part, i, found)));
    }
    if (faults.length === 0 && planned.every((part) => part.planned.hosts.length === 0))
      faults.push({ path: 'contents', message: 'every host of all rings runs exactly this already' });
    if (faults.length > 0) throw invalid(faults);
    return planned;
  }

  /** Rings that no hosts, windows or calendars are there for are not worth keeping. Throws a refusal. */
  async refuseFaulty(rings: readonly PlannedRing[]): Promise<void> {
    await this.hostNames(rings);
    const now = this.parts.estate.clock.now();
    const faults: Fault[] = [];
    for (const [i, { plan }] of rings.entries()) {
      const windows = listWindows(await this.plans.windowRule(plan, now), now, 1);
      const at = (path: string, message: string) => faults.push({ path: `rings.${i}.plan.${path}`, message });
      if (!windows.ok) for (const { path, message } of windows.error) at(windowPath(path), message);
      else if (windows.value.length === 0) at('window.rule', 'never happens');
      if (plan.batch < 1) at('batch', 'must be at least 1');
      if (plan.maxUnavailable < 1) at('maxUnavailable', 'must be at least 1');
    }
    if (faults.length > 0) throw invalid(faults);
  }

  /** The rollouts of some rings as they would begin now, by number; which hosts one takes depends on all of them. */
  async begin(
    rings: readonly PlannedRing[],
    numbers: readonly number[],
    contents: RolloutContents,
    options: Options,
  ): Promise<Map<number, PlannedPart>> {
    const names = await this.hostNames(rings);
    const found = await RingContents.open(this.parts, contents);
    const parts = new Map<number, PlannedPart>();
    for (const number of numbers) {
      const ring = rings[number];
      if (ring) parts.set(number, await this.partOf(ring, names[number] ?? [], found, options));
    }
    return parts;
  }

  /** The rings of a rollout that has not begun, as the forecast takes them. */
  planOf(
    planned: readonly PlannedPart[],
    { runs, notBefore, seed, from }: Options & { readonly runs: number; readonly notBefore: Instant },
  ): RolloutPlan {
    return { from, seed, runs, rings: chainOf(planned.map(chainRing), notBefore) };
  }

  private async partOf(
    ring: PlannedRing,
    names: readonly string[],
    contents: RingContents,
    options: Options,
  ): Promise<PlannedPart> {
    const pool = await this.plans.pools.pool(ring.poolId);
    const hosts = await this.plans.pools.hosts.counts(pool.id);
    const of = await contents.of(pool, this.plans.pools);
    const request: RolloutRequest = {
      ...ring.plan,
      ...of,
      poolId: pool.id,
      isRemake: false,
      onlyHosts: [...names],
    };
    const { plan, ...planned } = await this.plans.forecastable(request, { ...options, runs: 1 });
    // A batch for the whole pool is not wrong where few hosts are left to change.
    const batch = Math.max(1, Math.min(request.batch, planned.hosts.length));
    // Rings stand on sites of their own, so that what those make at a time is each ring's.
    const atOnce = Math.min(batch, ...(plan.limits ?? []).map((limit) => limit.atOnce));
    const own = { ...planned.ring, batch: atOnce };
    // A ring that has the rest takes the pool along: what it runs by then is the pool's blend.
    const isWhole = names.length === hosts.hosts || ring.take.by === 'rest';
    return {
      ring,
      request: { ...request, batch, onlyHosts: isWhole ? [] : request.onlyHosts },
      planned: { ...planned, ring: own, plan: { ...plan, rings: [own] } },
    };
  }

  /** The hosts of each ring by name, in the order of the rings. Throws a refusal. */
  private async hostNames(rings: readonly PlannedRing[]): Promise<readonly (readonly string[])[]> {
    const faults: Fault[] = [];
    const placed = new Map<string, readonly PlacedHost[]>();
    const pools = new Map((await this.plans.pools.all()).map((pool) => [pool.id, pool]));
    for (const [i, { poolId, plan }] of rings.entries()) {
      await refuseUnknownCalendars(this.plans, plan, `rings.${i}.plan.`);
      const pool = pools.get(poolId);
      if (!pool) faults.push({ path: `rings.${i}.poolId`, message: 'there is no such pool' });
      else if (!placed.has(poolId)) placed.set(poolId, await this.placedHosts(pool));
    }
    if (faults.length > 0) throw invalid(faults);
    const result = hostsOfRings(rings, (poolId) => placed.get(poolId) ?? []);
    if (!result.ok) throw invalid([...result.error]);
    return result.value.map((list) => list.map((host) => host.name));
  }

  private async placedHosts(pool: PoolRow): Promise<PlacedHost[]> {
    const places = await this.plans.pools.placesOf(pool.id);
    return (await this.plans.pools.hosts.of(pool.id)).map(({ name, place }) => ({
      name,
      site: places[place]?.site ?? '',
      datastore: places[place]?.datastore ?? '',
    }));
  }

  private async faultsOf(part: PlannedPart, number: number, contents: RingContents): Promise<Fault[]> {
    const { request, planned } = part;
    const at = (path: string) => `rings.${number}.plan.${path}`;
    const windows = listWindows(planned.ring.window, planned.plan.from, 1);
    const faults: Fault[] = await contents.faultsFor(planned.pool, number);
    if (planned.hosts.length > 0) {
      for (const { path, message } of await requestFaults(this.parts, request, planned))
        faults.push({ path: pathInRings(path, number), message: `${part.ring.name}: ${message}` });
    } else if (!windows.ok)
      for (const { path, message } of windows.error) faults.push({ path: at(path), message });
    return faults;
  }
}

/** Where a fault of a ring's own rollout stands among the rings. */
function pathInRings(path: string, number: number): string {
  if (path === 'imageVersionId' || path.startsWith('packageVersionIds'))
    return `contents.${path.split('.')[0] ?? ''}`;
  if (path === 'poolId') return `rings.${number}.poolId`;
  return path.startsWith('onlyHosts') || path === 'hosts'
    ? `rings.${number}.take`
    : `rings.${number}.plan.${path}`;
}

export function chainRing({ ring, planned }: PlannedPart): ChainRing {
  const { stop } = ring.plan;
  const gate = { ...openGate, ...(stop && { stop }) };
  return {
    plan: { ...planned.ring, name: ring.name, pool: planned.pool.name, gate },
    rules: ring.gate,
  };
}
