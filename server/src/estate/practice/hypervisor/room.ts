/** Cores, datastores and names: what is there, and whether one more machine has room. */
import { EstateError } from '../../driver/operations.ts';
import type { CloneSpec, SiteReport } from '../../driver/hypervisor.ts';
import type { EstateDb } from '../estate-database.ts';

/** A machine whose clone is running. */
export interface MachineBeingMade {
  readonly id: string;
  readonly spec: CloneSpec;
  readonly diskBytes: number;
}

export type WantedMachine = Pick<CloneSpec, 'name' | 'site' | 'datastore' | 'processors'> & {
  readonly id: string;
};

export class Room {
  private turn: Promise<unknown> = Promise.resolve();

  constructor(private readonly db: EstateDb) {}

  async sites(): Promise<SiteReport[]> {
    const sites = await this.db.selectFrom('site').selectAll().orderBy('name').execute();
    const datastores = await this.db.selectFrom('datastore').selectAll().orderBy('name').execute();
    const machines = await this.db
      .selectFrom('machine')
      .select(({ fn }) => [
        'site',
        'datastore',
        fn.sum<number>('cores').as('cores'),
        fn.sum<number>('disk_bytes').as('bytes'),
        fn.countAll<number>().as('count'),
      ])
      .groupBy(['site', 'datastore'])
      .execute();
    return sites.map((site) => {
      const here = machines.filter((row) => row.site === site.name);
      return {
        name: site.name,
        coresTotal: site.cores,
        coresUsed: sumOf(here, (row) => row.cores),
        machines: sumOf(here, (row) => row.count),
        datastores: datastores
          .filter((store) => store.site === site.name)
          .map((store) => ({
            name: store.name,
            capacityBytes: store.capacity_bytes,
            usedBytes: sumOf(here, (row) => (row.datastore === store.name ? row.bytes : 0)),
          })),
      };
    });
  }

  /** Looking whether there is room and taking it are one step: of two calls at once only one sees the last of it. */
  oneAtATime<T>(work: () => Promise<T>): Promise<T> {
    const done = this.turn.then(work);
    this.turn = done.catch(() => undefined);
    return done;
  }

  /** Throws where cores, bytes or the name are not free for this machine. */
  async need(wanted: WantedMachine, diskBytes: number): Promise<void> {
    const site = (await this.sites()).find((row) => row.name === wanted.site);
    if (!site) throw new EstateError('not found', `there is no site ${wanted.site}`);
    await this.needQuota(site, wanted);
    const beingMade = await this.beingMade();
    needCores(site, wanted, beingMade);
    needDisk(site, wanted, diskBytes, beingMade);
    if (beingMade.some((made) => made.spec.name === wanted.name && made.id !== wanted.id))
      throw nameTaken(wanted.name);
    await this.needName(wanted);
  }

  async needName({ id, name }: { readonly id: string; readonly name: string }): Promise<void> {
    const there = await this.db
      .selectFrom('machine')
      .select('id')
      .where('name', '=', name)
      .where('id', '!=', id)
      .executeTakeFirst();
    if (there) throw nameTaken(name);
  }

  private async needQuota(site: SiteReport, { name }: WantedMachine): Promise<void> {
    const fault = await this.db
      .selectFrom('fault')
      .selectAll()
      .where('kind', '=', 'quota exhausted')
      .where('target', '=', site.name)
      .executeTakeFirst();
    if (fault)
      throw new EstateError(
        'quota',
        `${site.name} refuses ${name}: its core quota is exhausted (a fault switched on for practice)`,
      );
  }

  /** Machines whose clones are running have their names and room already. */
  private async beingMade(): Promise<MachineBeingMade[]> {
    const rows = await this.db
      .selectFrom('operation')
      .select('effect_json')
      .where('state', '=', 'running')
      .where('call', '=', 'clone')
      .execute();
    return rows.map((row) => (JSON.parse(row.effect_json) as [string, MachineBeingMade])[1]);
  }
}

function needCores(site: SiteReport, wanted: WantedMachine, beingMade: readonly MachineBeingMade[]): void {
  const made = sumOf(beingMade, ({ spec }) => (spec.site === site.name ? spec.processors : 0));
  const free = site.coresTotal - site.coresUsed - made;
  if (wanted.processors > free)
    throw new EstateError(
      'quota',
      `${site.name} refuses ${wanted.name}: it needs ${wanted.processors} cores and ${free} of ${site.coresTotal} are free`,
    );
}

function needDisk(
  site: SiteReport,
  wanted: WantedMachine,
  diskBytes: number,
  beingMade: readonly MachineBeingMade[],
): void {
  const store = site.datastores.find((row) => row.name === wanted.datastore);
  if (!store) throw new EstateError('not found', `${site.name} has no datastore ${wanted.datastore}`);
  const made = sumOf(beingMade, ({ spec, diskBytes: bytes }) =>
    spec.site === site.name && spec.datastore === store.name ? bytes : 0,
  );
  const free = store.capacityBytes - store.usedBytes - made;
  if (diskBytes > free)
    throw new EstateError(
      'quota',
      `the datastore ${store.name} of ${site.name} refuses ${wanted.name}: it needs ${gigabytes(diskBytes)} and ${gigabytes(Math.max(0, free))} are free`,
    );
}

function nameTaken(name: string): EstateError {
  return new EstateError('conflict', `there is a machine named ${name} already`);
}

function sumOf<T>(rows: readonly T[], of: (row: T) => number): number {
  return rows.reduce((total, row) => total + of(row), 0);
}

function gigabytes(bytes: number): string {
  return `${(bytes / 1e9).toLocaleString('en-GB', { maximumFractionDigits: 1 })} GB`;
}
