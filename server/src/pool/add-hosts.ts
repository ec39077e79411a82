/** More hosts for a pool that is there: what they would take, and accepting them. */
import { newPoolSchema, type NewPool, type PoolDraft, type PoolPlace } from '@vatline/contract/pool/kinds';
import type { HostsPreview } from '@vatline/contract/pool/more-hosts';
import { MINUTE } from '@vatline/core/time/instant';
import type { JoinAccounts } from '../directory/join-accounts.ts';
import { OneAtATime } from '../platform/one-at-a-time.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import { hostsToMake, reservedFor } from './create.ts';
import type { AddInput } from './jobs.ts';
import { settingsIn, type PoolStore } from './pools.ts';
import { diskPlanOf } from './preview-fit.ts';
import { previewPool } from './preview.ts';
import { reserve } from './reservations.ts';
import type { PoolRow } from './tables.ts';

export interface MoreHosts {
  readonly count: number;
  /** Whether they are made although not all fit. */
  readonly isAnyway: boolean;
  /** Whether new ones are held back. */
  readonly isHeld: boolean;
  /** Of the pool's chassis, a host of each; none where hosts are virtual machines. */
  readonly slots: readonly number[];
}

export class HostAdditions {
  /** One at a time: what some may take is what those before have left. */
  private readonly turns = new OneAtATime();

  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
    private readonly accounts: JoinAccounts,
  ) {}

  async preview(poolId: string, more: MoreHosts): Promise<HostsPreview> {
    const { preview } = await this.look(poolId, more);
    const { names, clashes, fit, conditions, minutes, minutesAtMost, assumed, faults } = preview;
    return { names, clashes, fit, conditions, minutes, minutesAtMost, assumed, faults };
  }

  /** Throws a refusal with everything that stands in the way. */
  add(poolId: string, more: MoreHosts, why: string): Promise<string> {
    return this.turns.run(() => this.accept(poolId, more, why));
  }

  private async accept(poolId: string, more: MoreHosts, why: string): Promise<string> {
    const { parts, pools } = this;
    const { row, blendId, draft, all, open, preview, places, machines } = await this.look(poolId, more);
    if (preview.faults.length > 0 || !preview.fit)
      throw invalid(preview.faults.map(({ path, message }) => ({ path, message })));
    const version = await parts.db
      .selectFrom('image_version')
      .select(['image_id', 'size_bytes'])
      .where('id', '=', draft.imageVersionId ?? '')
      .executeTakeFirstOrThrow();
    const pool: NewPool = newPoolSchema.parse(draft);
    const input: AddInput = {
      poolId,
      blendId,
      imageId: version.image_id,
      pool: { ...pool, places: all },
      hosts: hostsToMake(pool, preview.names, places, machines).map((host) => ({
        ...host,
        place: open[host.place]?.at ?? 0,
      })),
      packageVersionIds: await pools.blends.packageIdsOf(blendId),
    };
    const job = await parts.jobs.prepare({
      kind: 'add hosts',
      title: `Make ${more.count === 1 ? 'a host' : `${more.count} hosts`} more of ${row.name}${why}`,
      subject: `pool:${poolId}`,
      input,
      promisedAt: Math.round(parts.estate.clock.now() + preview.minutesAtMost * MINUTE),
    });
    const hosts = reservedFor(input, diskPlanOf({ draft, imageBytes: version.size_bytes }));
    await parts.db.transact(async () => {
      await reserve(parts.db, poolId, hosts);
      await parts.jobs.enlist(job);
    });
    parts.jobs.begin(job.id);
    return job.id;
  }

  private async look(poolId: string, more: MoreHosts) {
    const row = await this.pools.pool(poolId);
    // Made while the others wait for another image, a host begins with that one.
    const blendId = (await this.pools.switchOf(poolId))?.to_blend_id ?? row.blend_id;
    if (blendId === null) throw conflict(`${row.name} has no blend yet that hosts could be made with`);
    const there = await this.pools.hosts.byPlace(poolId);
    const all = await this.pools.placesOf(poolId);
    const open = all.flatMap((place, at) => {
      const left = place.atMost === null ? null : place.atMost - (there.get(at) ?? 0);
      return left === null || left > 0 ? [{ at, place: { ...place, atMost: left } }] : [];
    });
    if (open.length === 0)
      throw invalid([{ path: 'count', message: `each place of ${row.name} has as many hosts as it may` }]);
    const draft = await this.draftOf(
      row,
      blendId,
      open.map(({ place }) => place),
      more,
    );
    const { preview, places, machines } = await previewPool(this.parts, this.accounts, draft);
    // What the pool is called, it is called already.
    const faults = preview.faults.filter((fault) => fault.path !== 'name');
    return { row, blendId, draft, all, open, places, machines, preview: { ...preview, faults } };
  }

  /** The pool as if it were made anew with so many hosts, in the room that its places have left. */
  private async draftOf(
    row: PoolRow,
    blendId: string,
    places: readonly PoolPlace[],
    { count, isAnyway, isHeld, slots }: MoreHosts,
  ): Promise<PoolDraft> {
    const blend = await this.pools.blends.get(blendId);
    const { name, kind, pattern, ou, session_limit } = row;
    return {
      ...settingsIn(row),
      ...(kind === 'pooled' ? { kind, sessionLimit: session_limit } : { kind }),
      name,
      clone: row.clone,
      pattern,
      ou,
      places: [...places],
      imageVersionId: blend.image_version_id,
      start: 1,
      fillGaps: true,
      count,
      slots: [...slots],
      atOnce: 8,
      onFault: 'go on',
      isAnyway,
      isHeld,
      isAdopting: false,
    };
  }
}
