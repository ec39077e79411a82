/** The practice chassis: slots that answer one after the other, some of them not the first time. */
import { MINUTE, type Instant } from '@vatline/core/time/instant';
import type { Chassis, ChassisReport, PhysicalHost, SlotReport } from '../driver/chassis.ts';
import { EstateError, type Operation } from '../driver/operations.ts';
import type { EstateDb } from './estate-database.ts';
import type { Guests } from './hypervisor/guests.ts';
import type { Images } from './hypervisor/images.ts';
import type { Disks } from './hypervisor/disks.ts';
import type { Machines } from './hypervisor/machines.ts';
import { idOfMachine } from './hypervisor/made-id.ts';
import type { Room } from './hypervisor/room.ts';
import type { Streams } from './hypervisor/streams.ts';
import type { PracticeOperations } from './operations.ts';
import { minutesOf } from './pace-of-work.ts';

/** How long a slot takes to answer. */
const SLOT_MS = MINUTE / 3;
/** The scratch disk of a physical machine is in the machine. */
export const LOCAL = 'local';

interface Parts {
  readonly db: EstateDb;
  readonly operations: PracticeOperations;
  readonly room: Room;
  readonly machines: Machines;
  readonly images: Images;
  readonly guests: Guests;
  readonly disks: Disks;
  readonly streams: Streams;
}

export class PracticeChassis implements Chassis {
  constructor(private readonly parts: Parts) {
    parts.operations.effect('look through chassis', () => Promise.resolve(''));
    parts.operations.effect('associate', (a: PhysicalHost & { id: string }) => this.endAssociate(a));
  }

  async all(): Promise<ChassisReport[]> {
    const rows = await this.parts.db.selectFrom('chassis').selectAll().orderBy('name').execute();
    return Promise.all(
      rows.map(async ({ name, site }) => {
        const look = await this.lastLook(name);
        const { n } = await this.parts.db
          .selectFrom('chassis_machine')
          .select(({ fn }) => fn.countAll<number>().as('n'))
          .where('chassis', '=', name)
          .executeTakeFirstOrThrow();
        return {
          name,
          site,
          slots: n,
          lookedAt: look?.startedAt ?? null,
          isLooking: look?.operation?.state === 'running',
        };
      }),
    );
  }

  async slots(chassis: string): Promise<SlotReport[]> {
    await this.need(chassis);
    const look = await this.lastLook(chassis);
    const rows = await this.parts.db
      .selectFrom('chassis_machine')
      .leftJoin('machine', 'machine.id', 'machine_id')
      .select([
        'slot',
        'serial',
        'chassis_machine.cores',
        'chassis_machine.memory_bytes',
        'answers_at_look',
        'machine.name',
      ])
      .where('chassis', '=', chassis)
      .orderBy('slot')
      .execute();
    return rows.map((row) => {
      const state = stateOf(row, rows.length, look, this.parts.operations.now());
      // Of what has never answered nobody knows what it is.
      const isKnown = state === 'answers' || row.name !== null;
      return {
        slot: row.slot,
        serial: isKnown ? row.serial : '',
        state,
        host: row.name,
        processors: isKnown ? row.cores : 0,
        memoryBytes: isKnown ? row.memory_bytes : 0,
        graphics: 0,
      };
    });
  }

  async look(key: string, chassis: string): Promise<Operation> {
    const known = await this.parts.operations.get(key);
    if (known) return known;
    await this.need(chassis);
    const last = await this.lastLook(chassis);
    if (last?.operation?.state === 'running')
      throw new EstateError('conflict', `${chassis} is being looked through already`);
    const slots = (await this.slots(chassis)).length;
    const now = this.parts.operations.now();
    const operation = await this.parts.operations.begin({
      key,
      call: 'look through chassis',
      subject: chassis,
      readyAt: now + slots * SLOT_MS,
      effect: 'look through chassis',
      argument: {},
    });
    await this.parts.db
      .insertInto('chassis_look')
      .values({ chassis, number: (last?.number ?? 0) + 1, key, started_ms: now })
      .execute();
    return operation;
  }

  associate(key: string, host: PhysicalHost): Promise<Operation> {
    const { operations, room, images, streams } = this.parts;
    return room.oneAtATime(async () => {
      const known = await operations.get(key);
      if (known) return known;
      const slot = (await this.slots(host.chassis)).find((one) => one.slot === host.slot);
      const where = `slot ${host.slot} of ${host.chassis}`;
      if (!slot) throw new EstateError('not found', `there is no ${where}`);
      if (slot.host !== null) throw new EstateError('conflict', `${where} is ${slot.host} already`);
      if (slot.state !== 'answers') throw new EstateError('timeout', `${where} does not answer`);
      const id = idOfMachine(key);
      await room.needName({ id, name: host.name });
      await images.need(host.imageId);
      await streams.needRoom(host.store, host.imageId);
      await streams.needStream(host.store, host.name);
      return operations.begin({
        key,
        call: 'associate',
        subject: host.name,
        minutes: minutesOf.associate,
        effect: 'associate',
        argument: { id, ...host },
      });
    });
  }

  /** The slot is taken first: cut short after it, the same is done again. */
  private async endAssociate({ id, ...host }: PhysicalHost & { id: string }): Promise<string> {
    const { db, machines, images, guests, disks, streams } = this.parts;
    const { site } = await this.need(host.chassis);
    const taken = await db
      .updateTable('chassis_machine')
      .set({ machine_id: id })
      .where('chassis', '=', host.chassis)
      .where('slot', '=', host.slot)
      .where((eb) => eb.or([eb('machine_id', 'is', null), eb('machine_id', '=', id)]))
      .returning(['cores', 'memory_bytes'])
      .executeTakeFirst();
    if (!taken) throw new EstateError('conflict', `slot ${host.slot} of ${host.chassis} was taken meanwhile`);
    await streams.needStream(host.store, host.name);
    const image = await images.need(host.imageId);
    const size = { processors: taken.cores, memoryBytes: taken.memory_bytes, graphics: 0 };
    const { name, network, store, scratchBytes } = host;
    await machines.insert({ id, name, site, network, size, power: 'on', guest: await guests.of(image) });
    await disks.add({ id, site }, [
      {
        role: 'scratch',
        datastore: LOCAL,
        bytes: scratchBytes,
        growsBytesPerDay: 0,
        isDaily: false,
        standsOn: 'nothing',
      },
    ]);
    await streams.begin({ id, name }, { store, imageId: host.imageId, scratchBytes });
    return id;
  }

  private async need(chassis: string) {
    const row = await this.parts.db
      .selectFrom('chassis')
      .selectAll()
      .where('name', '=', chassis)
      .executeTakeFirst();
    if (!row) throw new EstateError('not found', `there is no chassis ${chassis}`);
    return row;
  }

  private async lastLook(chassis: string): Promise<Look | undefined> {
    const row = await this.parts.db
      .selectFrom('chassis_look')
      .selectAll()
      .where('chassis', '=', chassis)
      .orderBy('number', 'desc')
      .executeTakeFirst();
    if (!row) return undefined;
    return {
      number: row.number,
      startedAt: row.started_ms,
      operation: await this.parts.operations.get(row.key),
    };
  }
}

interface Look {
  readonly number: number;
  readonly startedAt: Instant;
  readonly operation: Operation | undefined;
}

/** What fails half way has asked half of the slots; some answer only when they are asked once more. */
function stateOf(
  row: { readonly slot: number; readonly answers_at_look: number },
  slots: number,
  look: Look | undefined,
  now: Instant,
): SlotReport['state'] {
  if (!look || look.number < row.answers_at_look) return look ? 'silent' : 'not asked';
  if (look.operation?.state === 'running' && now < look.startedAt + row.slot * SLOT_MS) return 'not asked';
  if (look.operation?.state === 'failed' && row.slot > slots / 2) return 'silent';
  return 'answers';
}
