/** Accepting a new pool: checked, its names and room reserved, and its job written down, all at once. */
import type { ChassisSlot } from '@vatline/contract/chassis';
import { settingsOf, type NewPool } from '@vatline/contract/pool/kinds';
import { disksOnPlace, type DiskPlan } from '@vatline/core/pool/demand';
import { MINUTE } from '@vatline/core/time/instant';
import { dealOverPlaces } from '@vatline/core/pool/places';
import { newId } from '../platform/ids.ts';
import type { PreparedJob } from '../platform/jobs/runner.ts';
import { OneAtATime } from '../platform/one-at-a-time.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid, notFound } from '../platform/problem.ts';
import type { ChosenPlace } from './choices.ts';
import type { JoinAccounts } from '../directory/join-accounts.ts';
import type { CreateInput, HostToMake } from './jobs.ts';
import { previewPool } from './preview.ts';
import { diskPlanOf } from './preview-fit.ts';
import { reserve, type Reserved } from './reservations.ts';
import { PoolStore } from './pools.ts';

export class PoolCreation {
  /** One at a time: what a creation may take is what those before it have left. */
  private readonly turns = new OneAtATime();

  constructor(
    private readonly parts: Parts,
    private readonly accounts: JoinAccounts,
  ) {}

  /** Throws a refusal with everything that stands in the way. */
  create(request: NewPool, poolId = newId('pool')): Promise<{ poolId: string; jobId: string }> {
    return this.turns.run(() => this.accept(request, poolId));
  }

  private async accept(request: NewPool, poolId: string): Promise<{ poolId: string; jobId: string }> {
    const { parts } = this;
    const { preview, places, machines, unit } = await previewPool(parts, this.accounts, request);
    if (preview.faults.length > 0 || !preview.fit || !unit)
      throw invalid(preview.faults.map(({ path, message }) => ({ path, message })));
    const version = await this.version(request.imageVersionId);
    // In whatever notation the unit was given, the directory's own is kept.
    const pool = { ...request, ou: unit.dn };
    const input: CreateInput = {
      poolId,
      blendId: newId('blend'),
      imageId: version.image_id,
      pool,
      hosts: hostsToMake(pool, preview.names, places, machines),
    };
    const job = await parts.jobs.prepare({
      kind: 'make pool',
      title: `Make ${request.count} hosts of ${request.name}`,
      subject: `pool:${poolId}`,
      input,
      promisedAt: Math.round(parts.estate.clock.now() + preview.minutesAtMost * MINUTE),
    });
    const hosts = reservedFor(input, diskPlanOf({ draft: pool, imageBytes: version.size_bytes }));
    await parts.db.transact(() => this.keep({ input, lineId: version.line_id, hosts, job }));
    parts.jobs.begin(job.id);
    return { poolId, jobId: job.id };
  }

  private async keep({ input, lineId, hosts, job }: Accepted): Promise<void> {
    const { db, jobs } = this.parts;
    const { poolId, blendId } = input;
    const { imageVersionId, name, kind, clone, pattern, ou } = input.pool;
    const pools = new PoolStore(this.parts);
    const size = input.hosts[0]?.size ?? { processors: 0, memoryBytes: 0, graphics: 0 };
    const row = {
      id: poolId,
      name,
      kind,
      clone,
      pattern,
      ou,
      processors: size.processors,
      memory_bytes: size.memoryBytes,
      graphics: size.graphics,
      settings_json: JSON.stringify(settingsOf(input.pool)),
      line_id: lineId,
      // A dedicated host is one person's.
      session_limit: input.pool.kind === 'pooled' ? input.pool.sessionLimit : 1,
      blend_id: blendId,
      created_ms: job.createdAt,
    };
    await pools.add(row, input.pool.places);
    await pools.blends.add(poolId, imageVersionId, [], job.createdAt, blendId);
    await reserve(db, poolId, hosts);
    await jobs.enlist(job);
  }

  private async version(id: string) {
    const version = await this.parts.db
      .selectFrom('image_version')
      .select(['image_version.image_id', 'image_version.line_id', 'image_version.size_bytes'])
      .where('image_version.id', '=', id)
      .executeTakeFirst();
    if (!version) throw notFound('such image version');
    return version;
  }
}

/** Each name with the place, or the machine, that it falls to. */
export function hostsToMake(
  pool: NewPool,
  names: readonly string[],
  places: readonly ChosenPlace[],
  machines: readonly ChassisSlot[],
): HostToMake[] {
  if (pool.chassis !== null)
    return names.flatMap((name, i) => {
      const machine = machines[i];
      if (!machine) return [];
      const { slot, processors, memoryBytes } = machine;
      return { name, place: 0, slot, size: { processors, memoryBytes, graphics: 0 } };
    });
  const dealt = dealOverPlaces(
    names.length,
    pool.places.map((place) => place.atMost),
  );
  let next = 0;
  return dealt.flatMap((count, place) => {
    const own = names.slice(next, (next += count));
    const size = places[place]?.size;
    if (!size) return [];
    const { processors, memoryBytes, graphics } = size;
    return own.map((name) => ({ name, place, slot: null, size: { processors, memoryBytes, graphics } }));
  });
}

/** What is there once on a place counts with its first host. */
export function reservedFor({ pool, hosts }: CreateInput, plan: DiskPlan): Reserved[] {
  const begun = new Set<number>();
  return hosts.flatMap(({ name, place, size, slot }) => {
    const at = pool.places[place];
    if (!at) return [];
    const isFirst = !begun.has(place);
    begun.add(place);
    const disks = pool.chassis === null ? disksOnPlace(pool.clone, plan, at) : [];
    const bytes = disks.map((disk): [string, number] => [
      disk.datastore,
      Math.round(disk.perHostBytes + (isFirst ? disk.fixedBytes : 0)),
    ]);
    return {
      name,
      site: at.site,
      network: at.network,
      cores: size.processors,
      memory_bytes: size.memoryBytes,
      graphics: size.graphics,
      licence: pool.licence,
      store: pool.store,
      chassis: pool.chassis,
      slot,
      bytes_json: JSON.stringify(bytes),
    };
  });
}

interface Accepted {
  readonly input: CreateInput;
  readonly lineId: string;
  readonly hosts: readonly Reserved[];
  readonly job: PreparedJob;
}
