/** Build machines and hosts: power, steps, copies, and what somebody does at their screen. */
import { diskBytesOf } from '@vatline/core/image/hardware';
import type { Step } from '@vatline/core/image/recipe';
import type { Entry } from '@vatline/core/inventory/entry';
import type { Power } from '@vatline/core/power';
import type { HandChange } from '../../control.ts';
import { sql, type Selectable } from 'kysely';
import type {
  HostDisk,
  HostMachine,
  MachineReport,
  MachineSpec,
  PowerChange,
} from '../../driver/hypervisor.ts';
import { EstateError, type Operation } from '../../driver/operations.ts';
import { changeByHand } from './by-hand.ts';
import type { EstateDb, EstateTables } from '../estate-database.ts';
import { emptyGuest, runGuestStep, type Guest } from './guest.ts';
import type { PracticeOperations } from '../operations.ts';
import { minutesOf } from '../pace-of-work.ts';
import type { Guests } from './guests.ts';
import { idOfMachine } from './made-id.ts';
import type { Disks, NewDisk } from './disks.ts';
import type { Streams } from './streams.ts';
import type { PowerTimes } from './power-times.ts';
import type { Room, WantedMachine } from './room.ts';

type MachineRow = Selectable<EstateTables['machine']>;

type NewMachine = Pick<WantedMachine, 'id' | 'name' | 'site' | 'network' | 'size'> & {
  readonly power: Power;
  readonly guest: Guest;
  /** What it is made from, where that is an image. */
  readonly imageId?: string;
};

export class Machines {
  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    private readonly guests: Guests,
    private readonly room: Room,
    private readonly disks: Disks,
    private readonly times: PowerTimes,
    private readonly streams: Streams,
  ) {
    operations.effect('step', (a: { id: string; step: Step }) => this.endStep(a.id, a.step));
    operations.effect('power', (a: { id: string; to: PowerChange }) => this.endPower(a.id, a.to));
    operations.effect('copy', (a: { id: string; newId: string; name: string }) => this.endCopy(a));
    operations.effect('generalise', (a: { id: string }) =>
      this.change(a.id, (guest) => ({ ...guest, joined: null })),
    );
  }

  async names(): Promise<string[]> {
    return (await this.db.selectFrom('machine').select('name').execute()).map((row) => row.name);
  }

  async report(id: string): Promise<MachineReport | undefined> {
    const row = await this.row(id);
    if (!row) return undefined;
    const guest = await this.guests.of(row);
    return {
      id: row.id,
      name: row.name,
      power: row.power,
      restartPending: guest.restartPending,
      agent: guest.agent !== null,
      joined: guest.joined !== null,
    };
  }

  async hostMachines(ids: readonly string[]): Promise<Map<string, HostMachine>> {
    const rows = await this.db
      .selectFrom('machine')
      .select(['id', 'power', 'power_since_ms'])
      .where('id', 'in', sql<string>`(select value from json_each(${JSON.stringify(ids)}))`)
      .execute();
    const bytes = await this.disks.ownOf(ids);
    return new Map(
      rows.map(({ id, power, power_since_ms }) => [
        id,
        { power, since: power_since_ms, ...(bytes.get(id) ?? { ownBytes: 0, growsBytesPerDay: 0 }) },
      ]),
    );
  }

  async hostDisks(ids: readonly string[]): Promise<Map<string, HostDisk>> {
    const rows = await this.db
      .selectFrom('machine')
      .select(['id', 'image_id', 'guest'])
      .where('id', 'in', sql<string>`(select value from json_each(${JSON.stringify(ids)}))`)
      .execute();
    return new Map(rows.map(({ id, image_id, guest }) => [id, { imageId: image_id, contents: guest }]));
  }

  async imageContents(ids: readonly string[]): Promise<Map<string, string>> {
    const rows = await this.db.selectFrom('image').select(['id', 'guest']).where('id', 'in', ids).execute();
    return new Map(rows.map(({ id, guest }) => [id, guest]));
  }

  async inventory(id: string): Promise<readonly Entry[]> {
    return this.guests.inventoryOf(await this.guests.of(await this.need(id)));
  }

  async create(key: string, spec: MachineSpec): Promise<string> {
    return this.room.oneAtATime(async () => {
      const known = await this.db.selectFrom('made').selectAll().where('key', '=', key).executeTakeFirst();
      if (known) return known.result;
      const { name, site, datastore, hardware } = spec;
      const bytes = diskBytesOf(hardware);
      const size = { processors: hardware.processors, memoryBytes: hardware.memoryBytes, graphics: 0 };
      const wanted = { id: idOfMachine(key), name, site, network: '', size };
      await this.room.need({ ...wanted, bytes: [[datastore, bytes]] });
      await this.insert({ ...wanted, power: 'off', guest: emptyGuest });
      await this.disks.add(wanted, [buildDisk(datastore, bytes)]);
      await this.db.insertInto('made').values({ key, result: wanted.id }).execute();
      return wanted.id;
    });
  }

  async delete(id: string): Promise<void> {
    await this.disks.remove(id);
    await this.db.deleteFrom('machine').where('id', '=', id).execute();
    await this.times.note(id, 'gone');
    await this.streams.end(id);
    await this.db
      .updateTable('chassis_machine')
      .set({ machine_id: null })
      .where('machine_id', '=', id)
      .execute();
    await this.db.deleteFrom('snapshot').where('machine_id', '=', id).execute();
  }

  async runStep(key: string, id: string, step: Step): Promise<Operation> {
    const row = await this.need(id);
    const outcome = runGuestStep(await this.guests.of(row), step, await this.guests.traits());
    const fails =
      outcome.error === undefined ? undefined : { kind: 'failed' as const, message: outcome.error };
    return this.operations.begin({
      key,
      call: 'run step',
      subject: row.name,
      minutes: outcome.minutes,
      effect: 'step',
      argument: { id, step },
      fails,
    });
  }

  async power(key: string, id: string, to: PowerChange): Promise<Operation> {
    const known = await this.operations.get(key);
    if (known) return known;
    const { name: subject, power } = await this.need(id);
    const minutes =
      to === 'suspend' ? minutesOf.suspend : power === 'suspended' ? minutesOf.resume : minutesOf.power;
    return this.operations.begin({
      key,
      call: 'power',
      subject,
      minutes,
      effect: 'power',
      argument: { id, to },
    });
  }

  copy(key: string, id: string, name: string): Promise<Operation> {
    return this.begin(key, 'copy', id, { id, newId: idOfMachine(key), name });
  }

  generalise(key: string, id: string): Promise<Operation> {
    return this.begin(key, 'generalise', id, { id });
  }

  /** Begins what takes a machine a while, or gives back what has this key. */
  async begin(
    key: string,
    call: 'revert' | 'copy' | 'generalise' | 'capture',
    id: string,
    argument: unknown,
  ): Promise<Operation> {
    const known = await this.operations.get(key);
    if (known) return known;
    const { name: subject } = await this.need(id);
    return this.operations.begin({ key, call, subject, minutes: minutesOf[call], effect: call, argument });
  }

  /** Somebody at the machine's screen does what a step would do, without waiting and without a recipe. */
  async byHand(id: string, change: HandChange): Promise<void> {
    const row = await this.need(id);
    if (row.power !== 'on') throw new EstateError('conflict', `${row.name} is off; run it first`);
    const outcome = changeByHand(await this.guests.of(row), change, await this.guests.traits());
    if (outcome.error !== undefined) throw new EstateError('failed', outcome.error);
    await this.change(id, () => outcome.guest);
  }

  async need(id: string): Promise<MachineRow> {
    const row = await this.row(id);
    if (!row) throw new EstateError('not found', `the hypervisor has no machine ${id}`);
    return row;
  }

  async insert({ id, name, site, network, size, power, guest, imageId }: NewMachine): Promise<void> {
    await this.insertRow({
      id,
      name,
      site,
      network,
      cores: size.processors,
      memory_bytes: size.memoryBytes,
      graphics: size.graphics,
      power,
      power_since_ms: this.operations.now(),
      guest: await this.guests.keep(guest),
      pool: null,
      image_id: imageId ?? null,
    });
  }

  /** A host's system disk is that of an image from now on. */
  async madeFrom(id: string, imageId: string): Promise<void> {
    await this.db.updateTable('machine').set({ image_id: imageId }).where('id', '=', id).execute();
  }

  async change(id: string, change: (guest: Guest) => Guest, power?: Power): Promise<string> {
    const guest = await this.guests.keep(change(await this.guests.of(await this.need(id))));
    await this.db
      .updateTable('machine')
      .set({ guest, ...(power ? { power, power_since_ms: this.operations.now() } : {}) })
      .where('id', '=', id)
      .execute();
    if (power) await this.times.note(id, power);
    return id;
  }

  private async guestOfImage(image: string): Promise<Guest | undefined> {
    const row = await this.db.selectFrom('image').select('guest').where('id', '=', image).executeTakeFirst();
    return row && this.guests.of(row);
  }

  private row(id: string): Promise<MachineRow | undefined> {
    return this.db.selectFrom('machine').selectAll().where('id', '=', id).executeTakeFirst();
  }

  /** The same machine again is nothing new; another one of its name is refused. */
  private async insertRow(row: MachineRow): Promise<void> {
    await this.room.needName(row);
    await this.db
      .insertInto('machine')
      .values(row)
      .onConflict((c) => c.column('id').doNothing())
      .execute();
    await this.times.note(row.id, row.power);
  }

  private async endStep(id: string, step: Step): Promise<string> {
    const before = await this.guests.of(await this.need(id));
    const { guest, exitCode = 0 } = runGuestStep(before, step, await this.guests.traits());
    await this.change(id, () => guest, 'on');
    return String(exitCode);
  }

  private async endPower(id: string, to: PowerChange): Promise<string> {
    if (to === 'suspend') {
      await this.disks.keepMemory(await this.need(id));
      return this.change(id, (guest) => guest, 'suspended');
    }
    await this.disks.dropMemory(id);
    if (to === 'off') return this.change(id, (guest) => guest, 'off');
    const before = await this.need(id);
    const store = await this.streams.storeOf(id);
    if (store !== undefined && before.power !== 'on') await this.streams.needStream(store, before.name);
    // A resumed machine goes on with what it had.
    const image = before.power === 'suspended' ? undefined : await this.streams.start(id);
    const started = image === undefined ? undefined : await this.guestOfImage(image);
    return this.change(id, (guest) => ({ ...(started ?? guest), restartPending: false }), 'on');
  }

  private async endCopy(a: { id: string; newId: string; name: string }): Promise<string> {
    const row = await this.need(a.id);
    await this.insertRow({ ...row, pool: null, id: a.newId, name: a.name, power: 'off' });
    const disks = await this.disks.of(a.id);
    await this.disks.add(
      { id: a.newId, site: row.site },
      disks.map(({ datastore, bytes }) => buildDisk(datastore, bytes)),
    );
    return a.newId;
  }
}

/** The one disk of a build machine, which has its size from the beginning. */
export function buildDisk(datastore: string, bytes: number): NewDisk {
  return { role: 'build', datastore, bytes, growsBytesPerDay: 0, isDaily: false, standsOn: 'nothing' };
}
