/** Hosts made from images, and made anew. */
import type { CloneSpec } from '../../driver/hypervisor.ts';
import type { Operation } from '../../driver/operations.ts';
import type { EstateDb } from '../estate-database.ts';
import type { PracticeOperations } from '../operations.ts';
import { minutesOf } from '../pace-of-work.ts';
import type { Guests } from './guests.ts';
import type { Images } from './images.ts';
import type { Machines } from './machines.ts';
import { idOfMachine } from './made-id.ts';
import type { MachineBeingMade, Room } from './room.ts';

/** What a clone's own disk takes at first, by kind; a full clone adds the image. */
const OWN_DISK_BYTES = { full: 10e9, linked: 8e9, network: 4e9 } as const;

/** What a clone takes on its datastore at first. */
export function diskBytesOfClone(kind: CloneSpec['kind'], imageBytes: number): number {
  return OWN_DISK_BYTES[kind] + (kind === 'full' ? imageBytes : 0);
}

export class Clones {
  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    private readonly room: Room,
    private readonly machines: Machines,
    private readonly images: Images,
    private readonly guests: Guests,
  ) {
    operations.effect('clone', (a: MachineBeingMade) => this.endClone(a));
    operations.effect('rebuild', (a: { id: string; imageId: string }) => this.endRebuild(a));
  }

  clone(key: string, spec: CloneSpec): Promise<Operation> {
    return this.room.oneAtATime(async () => {
      const known = await this.operations.get(key);
      if (known) return known;
      const image = await this.images.need(spec.imageId);
      const id = idOfMachine(key);
      const diskBytes = diskBytesOfClone(spec.kind, image.size_bytes);
      await this.room.need({ id, ...spec }, diskBytes);
      const argument: MachineBeingMade = { id, spec, diskBytes };
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

  async rebuild(key: string, machineId: string, imageId: string): Promise<Operation> {
    const row = await this.machines.need(machineId);
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

  private async endClone({ id, spec, diskBytes }: MachineBeingMade): Promise<string> {
    const guest = await this.guests.of(await this.images.need(spec.imageId));
    await this.machines.insert({ id, spec, power: 'on', guest, diskBytes });
    return id;
  }

  private async endRebuild(a: { id: string; imageId: string }): Promise<string> {
    const guest = await this.guests.of(await this.images.need(a.imageId));
    // What a host had mounted is gone with its disk.
    await this.db
      .deleteFrom('mount')
      .where('host', '=', (eb) => eb.selectFrom('machine').select('name').where('id', '=', a.id))
      .execute();
    return this.machines.change(a.id, () => guest, 'on');
  }
}
