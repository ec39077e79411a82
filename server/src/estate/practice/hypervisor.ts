/** The practice hypervisor: machines, copies, power, cores, datastores. */
import { minutesOf } from './pace-of-work.ts';
import { contentOf } from './content.ts';
import {
  diskBytesOf as guestDiskBytes,
  emptyGuest,
  guestInventory,
  runGuestStep,
  snapshotGrowth,
  type Guest,
  type Traits,
} from './guest.ts';
import { EstateError, type Operation } from '../driver/operations.ts';
import type {
  CapturedImage,
  CloneSpec,
  Hypervisor,
  ImportedImage,
  MachineReport,
  MachineSpec,
  SiteReport,
} from '../driver/hypervisor.ts';
import type { EstateDb, EstateTables } from './estate-database.ts';
import type { PracticeOperations } from './operations.ts';
import type { Entry } from '@vatline/core/inventory/entry';
import type { Step } from '@vatline/core/image/recipe';
import { diskBytesOf } from '@vatline/core/image/hardware';
import { createHash } from 'node:crypto';
import { sql } from 'kysely';
import type { HandChange } from '../control.ts';
import { changeByHand } from './by-hand.ts';
import type { ImportedImages } from './imported-images.ts';

type MachineRow = EstateTables['machine'];

/** What a clone's own disk takes at first, by kind; a full clone adds the image. */
export const OWN_DISK_BYTES = { full: 10e9, linked: 8e9, network: 4e9 } as const;

interface MadeMachine {
  readonly id: string;
  readonly spec: CloneSpec;
  readonly diskBytes: number;
}

type WantedMachine = Pick<CloneSpec, 'name' | 'site' | 'datastore' | 'processors'> & { readonly id: string };

/** What a clone takes on its datastore at first. */
function diskBytesOfClone(kind: CloneSpec['kind'], imageBytes: number): number {
  return OWN_DISK_BYTES[kind] + (kind === 'full' ? imageBytes : 0);
}

function sumOf<T>(rows: readonly T[], of: (row: T) => number): number {
  return rows.reduce((total, row) => total + of(row), 0);
}

function gigabytes(bytes: number): string {
  return `${(bytes / 1e9).toLocaleString('en-GB', { maximumFractionDigits: 1 })} GB`;
}

export class PracticeHypervisor implements Hypervisor {
  private turn: Promise<unknown> = Promise.resolve();
  private lastRead: { readonly imageId: string; readonly files: ReadonlyMap<string, string> } | undefined;

  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    private readonly imported: ImportedImages,
  ) {
    operations.effect('step', (a: { id: string; step: Step }) => this.endStep(a.id, a.step));
    operations.effect('power', (a: { id: string; to: 'on' | 'off' | 'restart' }) =>
      this.endPower(a.id, a.to),
    );
    operations.effect('revert', (a: { id: string; snapshotId: string }) =>
      this.endRevert(a.id, a.snapshotId),
    );
    operations.effect('copy', (a: { id: string; newId: string; name: string }) => this.endCopy(a));
    operations.effect('generalise', (a: { id: string }) =>
      this.changeGuest(a.id, (guest) => ({ ...guest, joined: null })),
    );
    operations.effect('capture', (a: { id: string; imageId: string }) => this.endCapture(a));
    operations.effect('clone', (a: MadeMachine) => this.endClone(a));
    operations.effect('rebuild', (a: { id: string; imageId: string }) => this.endRebuild(a));
  }

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
    const sum = (list: readonly number[]) => list.reduce((total, n) => total + n, 0);
    return sites.map((site) => {
      const here = machines.filter((row) => row.site === site.name);
      return {
        name: site.name,
        coresTotal: site.cores,
        coresUsed: sum(here.map((row) => row.cores)),
        machines: sum(here.map((row) => row.count)),
        datastores: datastores
          .filter((store) => store.site === site.name)
          .map((store) => ({
            name: store.name,
            capacityBytes: store.capacity_bytes,
            usedBytes: sum(here.filter((row) => row.datastore === store.name).map((row) => row.bytes)),
          })),
      };
    });
  }

  async machineNames(): Promise<string[]> {
    return (await this.db.selectFrom('machine').select('name').execute()).map((row) => row.name);
  }

  async machine(id: string): Promise<MachineReport | undefined> {
    const row = await this.row(id);
    if (!row) return undefined;
    const guest = JSON.parse(row.guest_json) as Guest;
    return {
      id: row.id,
      name: row.name,
      power: row.power as 'on' | 'off',
      restartPending: guest.restartPending,
      agent: guest.agent !== null,
      joined: guest.joined !== null,
    };
  }

  async inventory(machineId: string): Promise<readonly Entry[]> {
    const row = await this.need(machineId);
    return this.inventoryOf(JSON.parse(row.guest_json) as Guest);
  }

  async createMachine(key: string, spec: MachineSpec): Promise<string> {
    return this.oneAtATime(async () => {
      const known = await this.db.selectFrom('made').selectAll().where('key', '=', key).executeTakeFirst();
      if (known) return known.result;
      const { processors } = spec.hardware;
      const id = `vm-${digest(key)}`;
      const diskBytes = diskBytesOf(spec.hardware);
      await this.needRoom({ id, ...spec, processors }, diskBytes);
      await this.insert({ id, spec: { ...spec, processors }, power: 'off', guest: emptyGuest, diskBytes });
      await this.db.insertInto('made').values({ key, result: id }).execute();
      return id;
    });
  }

  async runStep(key: string, machineId: string, step: Step): Promise<Operation> {
    const row = await this.need(machineId);
    const outcome = runGuestStep(JSON.parse(row.guest_json) as Guest, step, await this.traits());
    const fails =
      outcome.error === undefined ? undefined : { kind: 'failed' as const, message: outcome.error };
    return this.operations.begin({
      key,
      call: 'run step',
      subject: row.name,
      minutes: outcome.minutes,
      effect: 'step',
      argument: { id: machineId, step },
      fails,
    });
  }

  async power(key: string, machineId: string, to: 'on' | 'off' | 'restart'): Promise<Operation> {
    return this.timed(key, 'power', machineId, { id: machineId, to });
  }

  async snapshot(key: string, machineId: string): Promise<string> {
    const row = await this.need(machineId);
    const id = `snap-${digest(key)}`;
    const before = await this.db
      .selectFrom('snapshot')
      .select('guest_json')
      .where('machine_id', '=', machineId)
      .orderBy(sql`rowid`, 'desc')
      .limit(1)
      .executeTakeFirst();
    const traits = await this.traits();
    const guest = JSON.parse(row.guest_json) as Guest;
    const size_bytes = snapshotGrowth(
      before ? (JSON.parse(before.guest_json) as Guest) : emptyGuest,
      guest,
      traits,
    );
    await this.db
      .insertInto('snapshot')
      .values({ id, machine_id: machineId, guest_json: row.guest_json, size_bytes })
      .onConflict((c) => c.doNothing())
      .execute();
    return id;
  }

  async snapshotInventory(snapshotId: string): Promise<readonly Entry[]> {
    const { guest_json } = await this.needSnapshot(snapshotId);
    return this.inventoryOf(JSON.parse(guest_json) as Guest);
  }

  async snapshotBytes(snapshotId: string): Promise<number> {
    return (await this.needSnapshot(snapshotId)).size_bytes;
  }

  async deleteSnapshot(_key: string, snapshotId: string): Promise<void> {
    await this.db.deleteFrom('snapshot').where('id', '=', snapshotId).execute();
  }

  async revert(key: string, machineId: string, snapshotId: string): Promise<Operation> {
    return this.timed(key, 'revert', machineId, { id: machineId, snapshotId });
  }

  async copy(key: string, machineId: string, name: string): Promise<Operation> {
    return this.timed(key, 'copy', machineId, { id: machineId, newId: `vm-${digest(key)}`, name });
  }

  async generalise(key: string, machineId: string): Promise<Operation> {
    return this.timed(key, 'generalise', machineId, { id: machineId });
  }

  async capture(key: string, machineId: string): Promise<Operation> {
    return this.timed(key, 'capture', machineId, { id: machineId, imageId: `img-${digest(key)}` });
  }

  async image(id: string): Promise<CapturedImage | undefined> {
    const row = await this.db.selectFrom('image').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) return undefined;
    return {
      id,
      sizeBytes: row.size_bytes,
      entries: await this.inventoryOf(JSON.parse(row.guest_json) as Guest),
    };
  }

  async deleteImage(_key: string, id: string): Promise<void> {
    await this.db.deleteFrom('image').where('id', '=', id).execute();
  }

  async importImage(key: string, { inventoryFile, sizeBytes }: ImportedImage): Promise<string> {
    const id = `img-${digest(key)}`;
    const file = await this.imported.keep(id, inventoryFile);
    const guest: Guest = { ...emptyGuest, imported: { file, diskBytes: sizeBytes } };
    await this.db
      .insertInto('image')
      .values({ id, guest_json: JSON.stringify(guest), size_bytes: sizeBytes })
      .onConflict((c) => c.doNothing())
      .execute();
    return id;
  }

  private async inventoryOf(guest: Guest): Promise<Entry[]> {
    return guestInventory(guest, await this.traits(), await this.imported.entriesOf(guest));
  }

  async readFile(imageId: string, path: string): Promise<Iterable<Uint8Array>> {
    const digest = (await this.filesOf(imageId)).get(path);
    if (!digest) throw new EstateError('not found', `the image has no file ${path}`);
    const content = contentOf(digest);
    if (!content)
      throw new EstateError(
        'not found',
        `the practice estate never had the bytes of ${path}, only its digest`,
      );
    return content;
  }

  /** Digests of an image's files by path. Images never change, and files are read one after the other. */
  private async filesOf(imageId: string): Promise<ReadonlyMap<string, string>> {
    if (this.lastRead?.imageId === imageId) return this.lastRead.files;
    const image = await this.image(imageId);
    if (!image) throw new EstateError('not found', `the hypervisor has no image ${imageId}`);
    const files = new Map(
      image.entries.flatMap((entry) => (entry.kind === 'file' ? [[entry.path, entry.sha256]] : [])),
    );
    this.lastRead = { imageId, files };
    return files;
  }

  async clone(key: string, spec: CloneSpec): Promise<Operation> {
    return this.oneAtATime(async () => {
      const known = await this.operations.get(key);
      if (known) return known;
      const image = await this.db
        .selectFrom('image')
        .select('size_bytes')
        .where('id', '=', spec.imageId)
        .executeTakeFirst();
      if (!image) throw new EstateError('not found', `the hypervisor has no image ${spec.imageId}`);
      const id = `vm-${digest(key)}`;
      const diskBytes = diskBytesOfClone(spec.kind, image.size_bytes);
      await this.needRoom({ id, ...spec }, diskBytes);
      const argument: MadeMachine = { id, spec, diskBytes };
      return this.operations.begin({
        key,
        call: 'clone',
        subject: spec.name,
        minutes: minutesOf.clone[spec.kind],
        effect: 'clone',
        argument,
      });
    });
  }

  /** Looking whether there is room and taking it are one step: of two calls at once only one sees the last of it. */
  private oneAtATime<T>(work: () => Promise<T>): Promise<T> {
    const done = this.turn.then(work);
    this.turn = done.catch(() => undefined);
    return done;
  }

  async rebuild(key: string, machineId: string, imageId: string): Promise<Operation> {
    const row = await this.need(machineId);
    const kind = row.disk_bytes > 15e9 ? 'full' : row.disk_bytes > 5e9 ? 'linked' : 'network';
    return this.operations.begin({
      key,
      call: 'rebuild',
      subject: row.name,
      minutes: minutesOf.rebuild[kind],
      effect: 'rebuild',
      argument: { id: machineId, imageId },
    });
  }

  async deleteMachine(_key: string, machineId: string): Promise<void> {
    await this.db.deleteFrom('machine').where('id', '=', machineId).execute();
    await this.db.deleteFrom('snapshot').where('machine_id', '=', machineId).execute();
  }

  async traits(): Promise<ReadonlyMap<string, Traits>> {
    const rows = await this.db.selectFrom('trait').selectAll().execute();
    return new Map(rows.map((row) => [row.application, JSON.parse(row.json) as Traits]));
  }

  private async timed(
    key: string,
    call: 'power' | 'revert' | 'copy' | 'generalise' | 'capture',
    machineId: string,
    argument: unknown,
  ): Promise<Operation> {
    const known = await this.operations.get(key);
    if (known) return known;
    const row = await this.need(machineId);
    return this.operations.begin({
      key,
      call,
      subject: row.name,
      minutes: minutesOf[call],
      effect: call,
      argument,
    });
  }

  private async needRoom(wanted: WantedMachine, diskBytes: number): Promise<void> {
    const { name } = wanted;
    const site = (await this.sites()).find((row) => row.name === wanted.site);
    if (!site) throw new EstateError('not found', `there is no site ${wanted.site}`);
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
    const beingMade = await this.beingMade();
    const coresMade = sumOf(beingMade, (made) => (made.spec.site === site.name ? made.spec.processors : 0));
    const free = site.coresTotal - site.coresUsed - coresMade;
    if (wanted.processors > free)
      throw new EstateError(
        'quota',
        `${site.name} refuses ${name}: it needs ${wanted.processors} cores and ${free} of ${site.coresTotal} are free`,
      );
    this.needDisk(site, wanted, diskBytes, beingMade);
    await this.needName(wanted, beingMade);
  }

  private needDisk(
    site: SiteReport,
    wanted: WantedMachine,
    diskBytes: number,
    beingMade: readonly MadeMachine[],
  ): void {
    const store = site.datastores.find((row) => row.name === wanted.datastore);
    if (!store) throw new EstateError('not found', `${site.name} has no datastore ${wanted.datastore}`);
    const bytesMade = sumOf(beingMade, ({ spec, diskBytes: bytes }) =>
      spec.site === site.name && spec.datastore === store.name ? bytes : 0,
    );
    const free = store.capacityBytes - store.usedBytes - bytesMade;
    if (diskBytes > free)
      throw new EstateError(
        'quota',
        `the datastore ${store.name} of ${site.name} refuses ${wanted.name}: it needs ${gigabytes(diskBytes)} and ${gigabytes(Math.max(0, free))} are free`,
      );
  }

  private async needName({ id, name }: WantedMachine, beingMade: readonly MadeMachine[]): Promise<void> {
    const there = await this.db
      .selectFrom('machine')
      .select('id')
      .where('name', '=', name)
      .where('id', '!=', id)
      .executeTakeFirst();
    if (there || beingMade.some((made) => made.spec.name === name && made.id !== id))
      throw new EstateError('conflict', `there is a machine named ${name} already`);
  }

  /** Machines whose clones are running: they have their names and room already. */
  private async beingMade(): Promise<MadeMachine[]> {
    const rows = await this.db
      .selectFrom('operation')
      .select('effect_json')
      .where('state', '=', 'running')
      .where('call', '=', 'clone')
      .execute();
    return rows.map((row) => (JSON.parse(row.effect_json) as [string, MadeMachine])[1]);
  }

  private row(id: string): Promise<MachineRow | undefined> {
    return this.db.selectFrom('machine').selectAll().where('id', '=', id).executeTakeFirst();
  }

  private async need(id: string): Promise<MachineRow> {
    const row = await this.row(id);
    if (!row) throw new EstateError('not found', `the hypervisor has no machine ${id}`);
    return row;
  }

  private async insert(made: {
    id: string;
    spec: Pick<CloneSpec, 'name' | 'site' | 'datastore' | 'processors'>;
    power: string;
    guest: Guest;
    diskBytes: number;
  }): Promise<void> {
    const { name, site, datastore, processors } = made.spec;
    await this.insertRow({
      id: made.id,
      name,
      site,
      datastore,
      cores: processors,
      disk_bytes: made.diskBytes,
      power: made.power,
      guest_json: JSON.stringify(made.guest),
      pool: null,
    });
  }

  /** The same machine again is nothing new; another one of its name is refused. */
  private async insertRow(row: MachineRow): Promise<void> {
    const other = await this.db
      .selectFrom('machine')
      .select('id')
      .where('name', '=', row.name)
      .where('id', '!=', row.id)
      .executeTakeFirst();
    if (other) throw new EstateError('conflict', `there is a machine named ${row.name} already`);
    await this.db
      .insertInto('machine')
      .values(row)
      .onConflict((c) => c.column('id').doNothing())
      .execute();
  }

  private async changeGuest(id: string, change: (guest: Guest) => Guest, power?: string): Promise<string> {
    const row = await this.need(id);
    const guest_json = JSON.stringify(change(JSON.parse(row.guest_json) as Guest));
    await this.db
      .updateTable('machine')
      .set({ guest_json, ...(power ? { power } : {}) })
      .where('id', '=', id)
      .execute();
    return id;
  }

  private async endStep(id: string, step: Step): Promise<string> {
    const row = await this.need(id);
    const { guest, exitCode = 0 } = runGuestStep(
      JSON.parse(row.guest_json) as Guest,
      step,
      await this.traits(),
    );
    await this.changeGuest(id, () => guest, 'on');
    return String(exitCode);
  }

  private endPower(id: string, to: 'on' | 'off' | 'restart'): Promise<string> {
    return this.changeGuest(
      id,
      (guest) => (to === 'off' ? guest : { ...guest, restartPending: false }),
      to === 'off' ? 'off' : 'on',
    );
  }

  private async endRevert(id: string, snapshotId: string): Promise<string> {
    const { guest_json } = await this.needSnapshot(snapshotId);
    return this.changeGuest(id, () => JSON.parse(guest_json) as Guest, 'on');
  }

  private async needSnapshot(id: string): Promise<EstateTables['snapshot']> {
    const row = await this.db.selectFrom('snapshot').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw new EstateError('not found', `there is no snapshot ${id}`);
    return row;
  }

  /** Somebody at the machine's screen does what a step would do, without waiting and without a recipe. */
  async byHand(machineId: string, change: HandChange): Promise<void> {
    const row = await this.need(machineId);
    if (row.power !== 'on') throw new EstateError('conflict', `${row.name} is off; run it first`);
    const outcome = changeByHand(JSON.parse(row.guest_json) as Guest, change, await this.traits());
    if (outcome.error !== undefined) throw new EstateError('failed', outcome.error);
    await this.changeGuest(machineId, () => outcome.guest);
  }

  private async endCopy(a: { id: string; newId: string; name: string }): Promise<string> {
    const row = await this.need(a.id);
    await this.insertRow({ ...row, pool: null, id: a.newId, name: a.name, power: 'off' });
    return a.newId;
  }

  private async endCapture(a: { id: string; imageId: string }): Promise<string> {
    const row = await this.need(a.id);
    const guest = JSON.parse(row.guest_json) as Guest;
    const size = guestDiskBytes(guest, await this.inventoryOf(guest));
    await this.db
      .insertInto('image')
      .values({ id: a.imageId, guest_json: row.guest_json, size_bytes: size })
      .onConflict((c) => c.doNothing())
      .execute();
    return a.imageId;
  }

  private async endClone({ id, spec, diskBytes }: MadeMachine): Promise<string> {
    const image = await this.db
      .selectFrom('image')
      .selectAll()
      .where('id', '=', spec.imageId)
      .executeTakeFirstOrThrow();
    await this.insert({ id, spec, power: 'on', guest: JSON.parse(image.guest_json) as Guest, diskBytes });
    return id;
  }

  private async endRebuild(a: { id: string; imageId: string }): Promise<string> {
    const image = await this.db
      .selectFrom('image')
      .selectAll()
      .where('id', '=', a.imageId)
      .executeTakeFirst();
    if (!image) throw new EstateError('not found', `the hypervisor has no image ${a.imageId}`);
    // What a host had mounted is gone with its disk.
    await this.db
      .deleteFrom('mount')
      .where('host', '=', (eb) => eb.selectFrom('machine').select('name').where('id', '=', a.id))
      .execute();
    return this.changeGuest(a.id, () => JSON.parse(image.guest_json) as Guest, 'on');
  }
}

export function digest(text: string): string {
  return createHash('sha256').update(text).digest('hex').slice(0, 12);
}
