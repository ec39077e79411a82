/** Disks of the practice datastores: what clones are made of, how they grow, and which stands on which. */
import { sql } from 'kysely';
import { logNormal, seededRandom } from '@vatline/core/random';
import { DAY, type Instant } from '@vatline/core/time/instant';
import type { DiskUse, MachineGroup, StackedDisk } from '../../driver/disks.ts';
import type { DiskRole } from '@vatline/core/pool/disk-roles';
import type { CloneDisks } from '../../driver/hypervisor.ts';
import type { EstateDb, EstateTables } from '../estate-database.ts';

type DiskRow = EstateTables['disk'];

/** A disk that is to be made: its place, its size at first and how it grows. */
export interface NewDisk {
  readonly role: DiskRole;
  readonly datastore: string;
  readonly bytes: number;
  readonly growsBytesPerDay: number;
  /** Whether what was written is gone each night. */
  readonly isDaily: boolean;
  /** Whether it stands on the one before it in its list, or on the parent. */
  readonly standsOn: 'nothing' | 'parent' | 'the one before';
}

/** What a host writes when it is made: its name, its account, the first start. */
const MADE_BYTES = 0.6e9;
const CLEAN_BYTES = 0.2e9;
const SWAP_BYTES = 2e9;
/** Growth of a practice host's disk in a day: median and 90th percentile. */
const GROWTH = [0.2e9, 0.4e9] as const;

/** The disks of a clone of an image of so many bytes, the lowest first; the parent of a linked clone is not among them. */
export function disksOfClone(disks: CloneDisks, imageBytes: number, growsBytesPerDay: number): NewDisk[] {
  const { datastore } = disks;
  const standing = (role: DiskRole, bytes: number, at = datastore): NewDisk => ({
    role,
    datastore: at,
    bytes,
    growsBytesPerDay: 0,
    isDaily: false,
    standsOn: 'nothing',
  });
  const data = disks.data ? [standing('data', disks.data.bytes, disks.data.datastore)] : [];
  if (disks.kind === 'network') return [standing('scratch', disks.scratchBytes), ...data];
  const first: NewDisk =
    disks.kind === 'full'
      ? standing('own', imageBytes + MADE_BYTES)
      : { ...standing('child', MADE_BYTES), standsOn: 'parent' };
  const written: NewDisk[] = disks.returnsToClean
    ? [
        first,
        { ...standing('clean', CLEAN_BYTES), standsOn: 'the one before' },
        { ...standing('running', 0), growsBytesPerDay, isDaily: true, standsOn: 'the one before' },
      ]
    : [{ ...first, growsBytesPerDay }];
  return [...written, standing('swap', SWAP_BYTES), ...data];
}

/** How fast the disk of a host grows: always the same for one name. */
export function growthOf(seed: string, host: string): number {
  return Math.round(logNormal(seededRandom(`${seed}:growth:${host}`), ...GROWTH));
}

export function parentId(imageId: string, site: string, datastore: string): string {
  return `parent/${imageId}/${site}/${datastore}`;
}

export class Disks {
  constructor(
    private readonly db: EstateDb,
    private readonly now: () => Instant,
    private readonly seed: string,
  ) {}

  growthOf(host: string): number {
    return growthOf(this.seed, host);
  }

  /** Bytes used on each datastore now, by `site/datastore`; of one site, or of all. */
  async usedBytes(site?: string): Promise<ReadonlyMap<string, number>> {
    let rows = this.db
      .selectFrom('disk')
      .select(['site', 'datastore', sql<number>`sum(${this.bytesNow()})`.as('bytes')])
      .groupBy(['site', 'datastore']);
    if (site !== undefined) rows = rows.where('site', '=', site);
    return new Map((await rows.execute()).map((row) => [`${row.site}/${row.datastore}`, row.bytes]));
  }

  /** Bytes on each datastore by group of machines and by image of parents; they add up to its used bytes. */
  async uses(groups: readonly MachineGroup[]): Promise<DiskUse[]> {
    const groupOf = Object.fromEntries(
      groups.flatMap(({ name, machines }) => machines.map((id) => [id, name] as const)),
    );
    const { rows } = await sql<DiskUse>`
      with grouped as materialized (select key as machine, value as name from json_each(${JSON.stringify(groupOf)}))
      select site, datastore, grouped.name as "group", image_id as image,
        sum(${this.bytesNow()}) as bytes, count(*) as disks, sum(grows_bytes_per_day > 0 and not is_daily) as growing
      from disk left join grouped on grouped.machine = disk.machine_id
      group by site, datastore, grouped.name, image_id`.execute(this.db);
    return rows;
  }

  /** A machine's own disks and those below them, the lowest first. */
  async of(machineId: string): Promise<StackedDisk[]> {
    const stacked = this.reports().select(
      sql<number>`(select count(*) from disk as upper where upper.base = disk.id)`.as('above'),
    );
    const own = await stacked.where('machine_id', '=', machineId).execute();
    const parents = own.flatMap((disk) => (disk.base?.startsWith('parent/') ? [disk.base] : []));
    const below = parents.length > 0 ? await stacked.where('id', 'in', parents).execute() : [];
    const order: readonly DiskRole[] = [
      'build',
      'own',
      'parent',
      'child',
      'clean',
      'running',
      'swap',
      'data',
      'scratch',
      'memory',
    ];
    return [...below, ...own].sort((a, b) => order.indexOf(a.role) - order.indexOf(b.role));
  }

  /** Bytes of the own disks of some machines, and how fast they grow. */
  async ownOf(
    ids: readonly string[],
  ): Promise<ReadonlyMap<string, { ownBytes: number; growsBytesPerDay: number }>> {
    const rows = await this.db
      .selectFrom('disk')
      .select(({ fn }) => [
        'machine_id',
        sql<number>`sum(${this.bytesNow()})`.as('ownBytes'),
        fn.sum<number>('grows_bytes_per_day').as('growsBytesPerDay'),
      ])
      .where('machine_id', 'in', sql<string>`(select value from json_each(${JSON.stringify(ids)}))`)
      .groupBy('machine_id')
      .execute();
    return new Map(rows.map(({ machine_id, ...bytes }) => [machine_id ?? '', bytes]));
  }

  async hasParent(imageId: string, site: string, datastore: string): Promise<boolean> {
    const id = parentId(imageId, site, datastore);
    return (
      (await this.db.selectFrom('disk').select('id').where('id', '=', id).executeTakeFirst()) !== undefined
    );
  }

  /** Writes the disks of a machine, with the parent where one is needed; those that are there stay. */
  async add(
    machine: { readonly id: string; readonly site: string },
    disks: readonly NewDisk[],
    parent?: { readonly imageId: string; readonly datastore: string; readonly bytes: number },
    since = this.now(),
  ): Promise<void> {
    const rows = rowsOf(machine, disks, parent, since);
    if (rows.length > 0)
      await this.db
        .insertInto('disk')
        .values(rows)
        .onConflict((c) => c.doNothing())
        .execute();
  }

  /** Takes away the disks of a machine, and parents on which nothing stands any more; `keep` names roles that stay. */
  async remove(machineId: string, keep: readonly DiskRole[] = []): Promise<void> {
    let gone = this.db.deleteFrom('disk').where('machine_id', '=', machineId);
    if (keep.length > 0) gone = gone.where('role', 'not in', keep);
    const bases = (await gone.returning('base').execute()).flatMap((row) => row.base ?? []);
    for (const base of new Set(bases.filter((id) => id.startsWith('parent/'))))
      await this.db
        .deleteFrom('disk')
        .where('id', '=', base)
        .where(({ not, exists, selectFrom }) =>
          not(exists(selectFrom('disk as above').select('above.id').where('above.base', '=', base))),
        )
        .execute();
  }

  /** The memory of a machine that is suspended lies where its own disk does. */
  async keepMemory(machine: {
    readonly id: string;
    readonly site: string;
    readonly memory_bytes: number;
  }): Promise<void> {
    const at = (await this.placesOf(machine.id))?.datastore;
    if (at !== undefined)
      await this.add(machine, [
        {
          role: 'memory',
          datastore: at,
          bytes: machine.memory_bytes,
          growsBytesPerDay: 0,
          isDaily: false,
          standsOn: 'nothing',
        },
      ]);
  }

  async dropMemory(machineId: string): Promise<void> {
    await this.db.deleteFrom('disk').where('id', '=', `${machineId}/memory`).execute();
  }

  /** Where the disks of a machine lie and what they are, as they would be made again. */
  async placesOf(machineId: string): Promise<CloneDisks | undefined> {
    const own = await this.db.selectFrom('disk').selectAll().where('machine_id', '=', machineId).execute();
    const at = (role: DiskRole) => own.find((disk) => disk.role === role);
    const data = at('data');
    const common = {
      data: data ? { datastore: data.datastore, bytes: data.size_bytes } : null,
      returnsToClean: at('running') !== undefined,
    };
    const child = at('child');
    if (child) {
      const parent = child.base?.split('/').slice(3).join('/');
      return {
        kind: 'linked',
        datastore: child.datastore,
        parentDatastore: parent ?? child.datastore,
        ...common,
      };
    }
    const whole = at('own');
    if (whole) return { kind: 'full', datastore: whole.datastore, ...common };
    const scratch = at('scratch');
    const stream = await this.db
      .selectFrom('stream')
      .select('store')
      .where('machine_id', '=', machineId)
      .executeTakeFirst();
    return (
      scratch && {
        kind: 'network',
        datastore: scratch.datastore,
        scratchBytes: scratch.size_bytes,
        store: stream?.store ?? '',
        ...common,
      }
    );
  }

  private reports() {
    return this.db
      .selectFrom('disk')
      .select([
        'id',
        'site',
        'datastore',
        'role',
        'machine_id as machine',
        'image_id as image',
        'base',
        this.bytesNow().as('bytes'),
      ]);
  }

  /** What a disk takes now: it grows by the day, and a daily one begins anew each night. */
  private bytesNow() {
    const passed = sql`(${this.now()} - since_ms)`;
    return sql<number>`size_bytes + cast(grows_bytes_per_day * 1.0 * iif(is_daily, ${passed} % ${DAY}, ${passed}) / ${DAY} as integer)`;
  }
}

function rowsOf(
  machine: { readonly id: string; readonly site: string },
  disks: readonly NewDisk[],
  parent: { readonly imageId: string; readonly datastore: string; readonly bytes: number } | undefined,
  since: Instant,
): DiskRow[] {
  const parentRow = parent && {
    id: parentId(parent.imageId, machine.site, parent.datastore),
    site: machine.site,
    datastore: parent.datastore,
    role: 'parent' as const,
    machine_id: null,
    image_id: parent.imageId,
    base: null,
    size_bytes: parent.bytes,
    grows_bytes_per_day: 0,
    since_ms: since,
    is_daily: 0,
  };
  const own = disks.map((disk, i): DiskRow => {
    const before = disks[i - 1];
    const bases = {
      nothing: null,
      parent: parentRow?.id ?? null,
      'the one before': before ? `${machine.id}/${before.role}` : null,
    };
    return {
      id: `${machine.id}/${disk.role}`,
      site: machine.site,
      datastore: disk.datastore,
      role: disk.role,
      machine_id: machine.id,
      image_id: null,
      base: bases[disk.standsOn],
      size_bytes: disk.bytes,
      grows_bytes_per_day: disk.growsBytesPerDay,
      since_ms: since,
      is_daily: disk.isDaily ? 1 : 0,
    };
  });
  return parentRow ? [parentRow, ...own] : own;
}
