/** The practice chassis: slots that answer one after the other, some of them not the first time. */
import { LOCAL_DISK, type SlotState } from '@vatline/core/pool/chassis';
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
        const last = (await this.looks(name))[0];
        const { slots } = await this.parts.db
          .selectFrom('chassis_machine')
          .select(({ fn }) => fn.countAll<number>().as('slots'))
          .where('chassis', '=', name)
          .executeTakeFirstOrThrow();
        const { operation } = last ?? {};
        return {
          name,
          site,
          slots,
          look: last && operation ? { startedAt: last.startedAt, operation } : null,
          asked: last ? Math.min(slots, slotsAsked(last, this.parts.operations.now())) : 0,
        };
      }),
    );
  }

  async slots(chassis: string): Promise<SlotReport[]> {
    await this.need(chassis);
    const looks = await this.looks(chassis);
    const now = this.parts.operations.now();
    const rows = await this.parts.db
      .selectFrom('chassis_machine')
      .leftJoin('machine', 'machine.id', 'machine_id')
      .select(['slot', 'serial', 'chassis_machine.cores', 'chassis_machine.memory_bytes', 'answers_at_look'])
      .select('machine.name')
      .where('chassis', '=', chassis)
      .orderBy('slot')
      .execute();
    return rows.map((row) => {
      const state = row.name !== null ? 'answers' : stateOf(row, rows.length, looks, now);
      // Of what has never answered nobody knows what it is.
      const isKnown = state === 'answers';
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
    const [last] = await this.looks(chassis);
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
        datastore: LOCAL_DISK,
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

  /** The last one first. */
  private async looks(chassis: string): Promise<Look[]> {
    const rows = await this.parts.db
      .selectFrom('chassis_look')
      .selectAll()
      .where('chassis', '=', chassis)
      .orderBy('number', 'desc')
      .execute();
    return Promise.all(
      rows.map(async ({ number, started_ms, key }) => ({
        number,
        startedAt: started_ms,
        operation: await this.parts.operations.get(key),
      })),
    );
  }
}

interface Look {
  readonly number: number;
  readonly startedAt: Instant;
  /** Of one from before the practice began nothing is known but that it is over. */
  readonly operation: Operation | undefined;
}

function slotsAsked({ startedAt, operation }: Look, now: Instant): number {
  if (!operation) return Infinity;
  return Math.floor(((operation.endedAt ?? now) - startedAt) / SLOT_MS);
}

/** By the last look that asked it. What fails half way has asked half of the slots; some answer only when they are asked once more. */
function stateOf(
  row: { readonly slot: number; readonly answers_at_look: number },
  slots: number,
  looks: readonly Look[],
  now: Instant,
): SlotState {
  const look = looks.find((one) => row.slot <= slotsAsked(one, now));
  if (!look) return 'not asked';
  const isCutShort = look.operation?.state === 'failed' && slotsAsked(look, now) >= slots;
  return look.number < row.answers_at_look || (isCutShort && row.slot > slots / 2) ? 'silent' : 'answers';
}
