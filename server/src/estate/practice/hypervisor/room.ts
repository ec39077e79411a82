/** What sites have and what of it is used; and whether one more machine has room. */
import { EstateError } from '../../driver/operations.ts';
import type { SiteReport } from '../../driver/sites.ts';
import { gigabytes } from '@vatline/core/gigabytes';
import { machineAddresses, readRange } from '@vatline/core/network-range';
import type { HostSize } from '@vatline/core/pool/fit';
import type { EstateDb } from '../estate-database.ts';
import type { Disks } from './disks.ts';

/** What a machine takes of its site. */
export interface WantedMachine {
  readonly id: string;
  readonly name: string;
  readonly site: string;
  /** Empty for a machine that is on no network. */
  readonly network: string;
  readonly size: HostSize;
  /** Bytes at first, by datastore. */
  readonly bytes: readonly (readonly [datastore: string, bytes: number])[];
}

/** Operations a second that a powered host asks of its datastore while people work on it. */
const OPERATIONS_AT_WORK = 12;

export class Room {
  private turn: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly db: EstateDb,
    private readonly disks: Disks,
  ) {}

  async sites(only?: string): Promise<SiteReport[]> {
    let asked = this.db.selectFrom('site').selectAll().orderBy('name');
    if (only !== undefined) asked = asked.where('name', '=', only);
    const [sites, datastores, networks, sizes, machines, used] = [
      await asked.execute(),
      await this.db.selectFrom('datastore').selectAll().orderBy('name').execute(),
      await this.db.selectFrom('network').selectAll().orderBy('name').execute(),
      await this.db.selectFrom('size').selectAll().orderBy('processors').orderBy('memory_bytes').execute(),
      await this.machinesBySite(),
      await this.disks.usedBytes(only),
    ];
    const hosts = await this.hostsByDatastore();
    return sites.map((site) => {
      const here = machines.filter((row) => row.site === site.name);
      const taken = (of: (row: (typeof machines)[number]) => number) => sumOf(here, of);
      return {
        name: site.name,
        machines: taken((row) => row.count),
        makesAtOnce: site.makes_at_once,
        cores: { total: site.cores, used: taken((row) => row.cores) },
        memoryBytes: { total: site.memory_bytes, used: taken((row) => row.memory) },
        graphics: { total: site.graphics, used: taken((row) => row.graphics) },
        networks: networks
          .filter((row) => row.site === site.name)
          .map(({ name, range, reserved }) => ({
            name,
            range,
            addresses: {
              total: addressesIn(range),
              used: reserved + taken((row) => (row.network === name ? row.count : 0)),
            },
          })),
        datastores: datastores
          .filter((row) => row.site === site.name)
          .map((row) => ({
            name: row.name,
            capacityBytes: row.capacity_bytes,
            usedBytes: used.get(`${site.name}/${row.name}`) ?? 0,
            overcommit: row.overcommit,
            price: row.price,
            operations: {
              total: row.operations,
              used: (hosts.get(`${site.name}/${row.name}`) ?? 0) * OPERATIONS_AT_WORK,
            },
          })),
        sizes: sizes
          .filter((row) => row.site === site.name)
          .map(({ name, processors, memory_bytes, graphics, price_per_hour }) => ({
            name,
            processors,
            memoryBytes: memory_bytes,
            graphics,
            pricePerHour: price_per_hour,
          })),
      };
    });
  }

  async makesAtOnce(): Promise<ReadonlyMap<string, number>> {
    const rows = await this.db.selectFrom('site').select(['name', 'makes_at_once']).execute();
    return new Map(rows.map((row) => [row.name, row.makes_at_once]));
  }

  /** Looking whether there is room and taking it are one step: of two calls at once only one sees the last of it. */
  oneAtATime<T>(work: () => Promise<T>): Promise<T> {
    const done = this.turn.then(work);
    this.turn = done.catch(() => undefined);
    return done;
  }

  /** Throws where cores, memory, graphics, an address, bytes or the name are not free for this machine. */
  async need(wanted: WantedMachine): Promise<void> {
    const [site] = await this.sites(wanted.site);
    if (!site) throw new EstateError('not found', `there is no site ${wanted.site}`);
    await this.needQuota(site, wanted);
    const beingMade = (await this.beingMade()).filter((made) => made.id !== wanted.id);
    const here = beingMade.filter((made) => made.site === site.name);
    needAmounts(site, wanted, here);
    needAddress(site, wanted, here);
    for (const [datastore, bytes] of wanted.bytes) needBytes(site, wanted.name, datastore, bytes, here);
    if (beingMade.some((made) => made.name === wanted.name)) throw nameTaken(wanted.name);
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

  private machinesBySite() {
    return this.db
      .selectFrom('machine')
      .select(({ fn }) => [
        'site',
        'network',
        fn.sum<number>('cores').as('cores'),
        fn.sum<number>('memory_bytes').as('memory'),
        fn.sum<number>('graphics').as('graphics'),
        fn.countAll<number>().as('count'),
      ])
      .groupBy(['site', 'network'])
      .execute();
  }

  /** Hosts that are on, by the datastore that they write to. */
  private async hostsByDatastore(): Promise<ReadonlyMap<string, number>> {
    const rows = await this.db
      .selectFrom('disk')
      .where('role', 'in', ['own', 'child', 'scratch'])
      // Those that are off are few, or many at night; either way no machine is looked up by its disk.
      .where(({ not, eb, selectFrom }) =>
        not(eb('machine_id', 'in', selectFrom('machine').select('id').where('power', '!=', 'on'))),
      )
      .select(({ fn }) => ['site', 'datastore', fn.countAll<number>().as('hosts')])
      .groupBy(['site', 'datastore'])
      .execute();
    return new Map(rows.map((row) => [`${row.site}/${row.datastore}`, row.hosts]));
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
  private async beingMade(): Promise<WantedMachine[]> {
    const rows = await this.db
      .selectFrom('operation')
      .select('effect_json')
      .where('state', '=', 'running')
      .where('call', '=', 'clone')
      .execute();
    return rows.map((row) => (JSON.parse(row.effect_json) as [string, { wanted: WantedMachine }])[1].wanted);
  }
}

/** Of a range that somebody wrote down; of what is no range none. */
function addressesIn(range: string): number {
  const read = readRange(range);
  return read.ok ? machineAddresses(read.value) : 0;
}

function needAmounts(
  site: SiteReport,
  { name, size }: WantedMachine,
  beingMade: readonly WantedMachine[],
): void {
  const amounts = [
    ['cores', size.processors, site.cores, (one: HostSize) => one.processors, String],
    ['of memory', size.memoryBytes, site.memoryBytes, (one: HostSize) => one.memoryBytes, gigabytes],
    ['graphics processors', size.graphics, site.graphics, (one: HostSize) => one.graphics, String],
  ] as const;
  for (const [what, needed, there, of, show] of amounts) {
    const free = there.total - there.used - sumOf(beingMade, (made) => of(made.size));
    if (needed > free)
      throw new EstateError(
        'quota',
        `${site.name} refuses ${name}: it needs ${show(needed)} ${what} and ${show(Math.max(0, free))} of ${show(there.total)} are free`,
      );
  }
}

function needAddress(
  site: SiteReport,
  { name, network }: WantedMachine,
  beingMade: readonly WantedMachine[],
): void {
  if (network === '') return;
  const there = site.networks.find((row) => row.name === network);
  if (!there) throw new EstateError('not found', `${site.name} has no network ${network}`);
  const made = sumOf(beingMade, (one) => (one.network === network ? 1 : 0));
  if (there.addresses.used + made >= there.addresses.total)
    throw new EstateError('quota', `the network ${network} of ${site.name} has no address left for ${name}`);
}

function needBytes(
  site: SiteReport,
  name: string,
  datastore: string,
  bytes: number,
  beingMade: readonly WantedMachine[],
): void {
  const store = site.datastores.find((row) => row.name === datastore);
  if (!store) throw new EstateError('not found', `${site.name} has no datastore ${datastore}`);
  const made = sumOf(beingMade, (one) => sumOf(one.bytes, ([at, size]) => (at === datastore ? size : 0)));
  const free = store.capacityBytes - store.usedBytes - made;
  if (bytes > free)
    throw new EstateError(
      'quota',
      `the datastore ${datastore} of ${site.name} refuses ${name}: it needs ${gigabytes(bytes)} and ${gigabytes(Math.max(0, free))} are free`,
    );
}

function nameTaken(name: string): EstateError {
  return new EstateError('conflict', `there is a machine named ${name} already`);
}

function sumOf<T>(rows: readonly T[], of: (row: T) => number): number {
  return rows.reduce((total, row) => total + of(row), 0);
}
