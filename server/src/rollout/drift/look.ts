/**
 * Looks what hosts really have, pool by pool, every hour of the estate's clock and whenever somebody
 * asks. What is found is kept until a look finds it no more, or the host has been made what it should be.
 */
import { sql } from 'kysely';
import { driftKinds, driftOf, type Drift, type HostSeen, type HostWanted } from '@vatline/core/rollout/drift';
import { isOffered } from '@vatline/core/package/attachable';
import { HOUR } from '@vatline/core/time/instant';
import type { HostDisk } from '../../estate/driver/hypervisor.ts';
import type { Mount } from '../../estate/driver/hosts.ts';
import { actingAs } from '../../platform/acting.ts';
import type { Parts } from '../../platform/parts.ts';
import { turnsForOthers } from '../../platform/turns.ts';
import type { PoolStore } from '../../pool/pools.ts';
import type { HostRow, PoolRow } from '../../pool/tables.ts';
import type {} from '../../installed/tables.ts';
import type {} from '../../package/tables.ts';
import type {} from './tables.ts';

const EVERY = HOUR;
/** Hosts whose reports are read together: some milliseconds of work. */
const AT_ONCE = 500;

interface Found {
  readonly host: HostRow;
  readonly drift: readonly Drift[];
}

/** What those outside tell of the hosts of a pool. */
interface Reports {
  readonly disks: ReadonlyMap<string, HostDisk>;
  readonly mounts: ReadonlyMap<string, readonly Mount[]>;
  /** What each streams now, by host. */
  readonly streamed: ReadonlyMap<string, string>;
  readonly silent: ReadonlySet<string>;
  /** Hosts on which agents installed something for us: their disks are not those of an image any more. */
  readonly installedOn: ReadonlySet<string>;
}

export class DriftLook {
  constructor(
    private readonly parts: Parts,
    private readonly pools: PoolStore,
  ) {}

  /** Looks at everything at the next full hour, and every hour from then on. */
  arm(): void {
    const { clock } = this.parts.estate;
    const at = (Math.floor(clock.now() / EVERY) + 1) * EVERY;
    const look = async () => {
      try {
        await actingAs(undefined, () => this.all());
      } finally {
        this.arm();
      }
    };
    clock.wakeAt(at, 'drift', look, 'routine');
  }

  async all(): Promise<void> {
    const others = turnsForOthers();
    for (const pool of await this.pools.all()) {
      await this.pool(pool);
      await others();
    }
  }

  /** Part by part, so that ten thousand hosts keep nobody waiting; that it was looked is written last. */
  async pool(pool: PoolRow): Promise<void> {
    const at = this.parts.estate.clock.now();
    const others = turnsForOthers();
    const names = await this.containerNames();
    const fresh: HostRow[] = [];
    for (let after = ''; ;) {
      const part = await this.partOf(pool, after);
      const hosts = await this.atRest(pool, part);
      fresh.push(...(await this.keep(hosts, await this.foundOn(pool, hosts, names), at)));
      const last = part.at(-1);
      if (!last) break;
      after = last.name;
      await others();
    }
    await this.looked(pool, fresh, at);
  }

  private partOf(pool: PoolRow, after: string): Promise<HostRow[]> {
    return this.parts.db
      .selectFrom('host')
      .selectAll()
      .where('pool_id', '=', pool.id)
      .where('name', '>', after)
      .orderBy('name')
      .limit(AT_ONCE)
      .execute();
  }

  /** Not those that a rollout has in its hands: they are between two blends, and that is what was asked for. */
  private async atRest(pool: PoolRow, hosts: readonly HostRow[]): Promise<HostRow[]> {
    const busy = await this.parts.db
      .selectFrom('rollout_host')
      .innerJoin('rollout', 'rollout.id', 'rollout_host.rollout_id')
      .select('host_id')
      .where('pool_id', '=', pool.id)
      .where('ended_ms', 'is', null)
      .where('stage', 'in', ['draining', 'rebuilding', 'attaching', 'joining', 'verifying'])
      .execute();
    const out = new Set(busy.map((row) => row.host_id));
    return hosts.filter(({ id, work }) => !out.has(id) && (work === 'none' || work === 'failed'));
  }

  private async foundOn(
    pool: PoolRow,
    hosts: readonly HostRow[],
    names: ReadonlyMap<string, string>,
  ): Promise<Found[]> {
    const reports = await this.reportsOf(pool, hosts);
    const wanted = await this.wantedBy([...new Set(hosts.map((host) => host.blend_id))]);
    return hosts.flatMap((host) => {
      const should = wanted.get(host.blend_id);
      if (!should) return [];
      const nameOf = (digest: string) => names.get(digest) ?? digest.slice(0, 12);
      const drift = driftOf(seenOf(pool, host, reports), should, nameOf);
      return drift.length > 0 ? [{ host, drift }] : [];
    });
  }

  private async reportsOf(pool: PoolRow, hosts: readonly HostRow[]): Promise<Reports> {
    const { hypervisor, agents, streaming } = this.parts.estate;
    const names = hosts.map((host) => host.name);
    const streams = pool.clone === 'network' ? await streaming.of(names) : new Map<string, { now: string }>();
    const installed = await this.parts.db
      .selectFrom('install_report')
      .select('host')
      .where('host', 'in', sql<string>`(select value from json_each(${JSON.stringify(names)}))`)
      .execute();
    return {
      disks: await hypervisor.hostDisks(hosts.flatMap((host) => host.machine_id ?? [])),
      mounts: await agents.mountsOn(names),
      streamed: new Map([...streams].map(([host, { now }]) => [host, now])),
      silent: new Set(await agents.silent()),
      installedOn: new Set(installed.map((row) => row.host)),
    };
  }

  /** By blend: its image, and the containers of its packages that hosts are given. */
  private async wantedBy(blendIds: readonly string[]): Promise<Map<string, HostWanted>> {
    const { db, estate } = this.parts;
    const images = await db
      .selectFrom('blend')
      .innerJoin('image_version', 'image_version.id', 'blend.image_version_id')
      .select(['blend.id', 'image_version.image_id'])
      .where('blend.id', 'in', blendIds)
      .execute();
    const packages = await db
      .selectFrom('blend_package')
      .innerJoin('package_version', 'package_version.id', 'blend_package.package_version_id')
      .innerJoin('package', 'package.id', 'package_version.package_id')
      .select(['blend_id', 'digest', 'state', 'share', 'package.name', 'package_version.version'])
      .where('blend_id', 'in', blendIds)
      .execute();
    const fresh = await estate.hypervisor.imageContents(images.map((row) => row.image_id));
    return new Map(
      images.map(({ id, image_id }) => [
        id,
        {
          imageId: image_id,
          disk: fresh.get(image_id) ?? null,
          containers: new Map(
            packages
              .filter((row) => row.blend_id === id && isOffered(row))
              .map(({ digest, name, version }) => [digest, `${name} ${version}`]),
          ),
        },
      ]),
    );
  }

  private async containerNames(): Promise<ReadonlyMap<string, string>> {
    const rows = await this.parts.db
      .selectFrom('package_version')
      .innerJoin('package', 'package.id', 'package_version.package_id')
      .select(['digest', 'name', 'version'])
      .execute();
    return new Map(rows.map(({ digest, name, version }) => [digest, `${name} ${version}`]));
  }

  /** Writes down what was found on some hosts, in place of what was; gives those on which something is new. */
  private async keep(hosts: readonly HostRow[], found: readonly Found[], at: number): Promise<HostRow[]> {
    const { db } = this.parts;
    return db.transact(async () => {
      const before = await this.known(hosts);
      const rows = found.flatMap(({ host, drift }) =>
        drift.map(({ kind, what }) => ({
          host_id: host.id,
          kind,
          what,
          rank: driftKinds.indexOf(kind),
          found_ms: before.get(keyOf(host, { kind, what })) ?? at,
        })),
      );
      if (before.size > 0) await db.deleteFrom('host_drift').where('host_id', 'in', idsOf(hosts)).execute();
      for (let i = 0; i < rows.length; i += AT_ONCE)
        await db
          .insertInto('host_drift')
          .values(rows.slice(i, i + AT_ONCE))
          // Two containers of one name are one finding.
          .onConflict((c) => c.doNothing())
          .execute();
      return found
        .filter(({ host, drift }) => drift.some((one) => !before.has(keyOf(host, one))))
        .map(({ host }) => host);
    });
  }

  private async looked(pool: PoolRow, fresh: readonly HostRow[], at: number): Promise<void> {
    const { db, journal } = this.parts;
    await db.transact(async () => {
      if (fresh.length > 0)
        await journal.note({
          at,
          kind: 'pool',
          subject: `pool:${pool.id}`,
          text: `${pool.name}: ${noticeOf(fresh)}`,
          link: `/rollouts/drift?pool=${pool.id}`,
        });
      const looked = { pool_id: pool.id, at_ms: at };
      await db
        .insertInto('drift_look')
        .values(looked)
        .onConflict((c) => c.column('pool_id').doUpdateSet(looked))
        .execute();
      journal.tell(`pool:${pool.id}`);
    });
  }

  /** Since when each is known. */
  private async known(hosts: readonly HostRow[]): Promise<ReadonlyMap<string, number>> {
    const rows = await this.parts.db
      .selectFrom('host_drift')
      .select(['host_id', 'kind', 'what', 'found_ms'])
      .where('host_id', 'in', idsOf(hosts))
      .execute();
    return new Map(rows.map(({ host_id, found_ms, ...one }) => [keyOf({ id: host_id }, one), found_ms]));
  }
}

const idsOf = (hosts: readonly HostRow[]) =>
  sql<string>`(select value from json_each(${JSON.stringify(hosts.map(({ id }) => id))}))`;

const keyOf = ({ id }: Pick<HostRow, 'id'>, { kind, what }: Drift) => `${id} ${kind} ${what}`;

function noticeOf(hosts: readonly HostRow[]): string {
  const [first] = hosts;
  return hosts.length === 1
    ? `${first?.name ?? ''} is not what its blend says`
    : `${hosts.length} hosts are not what their blends say, ${first?.name ?? ''} among them`;
}

function seenOf(pool: PoolRow, host: HostRow, reports: Reports): HostSeen {
  const disk = host.machine_id === null ? undefined : reports.disks.get(host.machine_id);
  const streamed = reports.streamed.get(host.name);
  // A host of somebody's own is theirs to change, and a scratch disk is never that of an image.
  const isCompared =
    pool.kind === 'pooled' && pool.clone !== 'network' && !reports.installedOn.has(host.name);
  return {
    machine: host.machine_id === null ? 'none' : disk ? 'there' : 'gone',
    isOn: host.power === 'on',
    imageId: streamed ?? disk?.imageId ?? null,
    disk: isCompared ? (disk?.contents ?? null) : null,
    containers: new Set(
      (reports.mounts.get(host.name) ?? [])
        .filter(({ heldBy }) => heldBy === null)
        .map(({ digest }) => digest),
    ),
    isSilent: reports.silent.has(host.name),
    isKnown: host.contents_known === 1,
  };
}
