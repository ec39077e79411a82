/** Hosts made from images, and made anew. */
import type { CloneDisks, CloneSpec } from '../../driver/hypervisor.ts';
import { EstateError, type Operation } from '../../driver/operations.ts';
import type { EstateDb } from '../estate-database.ts';
import type { PracticeOperations } from '../operations.ts';
import { minutesOf } from '../pace-of-work.ts';
import { disksOfClone, type Disks, type NewDisk } from './disks.ts';
import type { Guests } from './guests.ts';
import type { Images } from './images.ts';
import type { Machines } from './machines.ts';
import { idOfMachine } from './made-id.ts';
import type { Streams } from './streams.ts';
import type { Room, WantedMachine } from './room.ts';

interface CloneArgument {
  readonly wanted: WantedMachine;
  readonly imageId: string;
  readonly disks: CloneDisks;
}

interface RebuildArgument {
  readonly id: string;
  readonly imageId: string;
  /** Missing in operations that were begun by earlier versions. */
  readonly disks?: CloneDisks;
}

export class Clones {
  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    private readonly parts: {
      readonly room: Room;
      readonly machines: Machines;
      readonly images: Images;
      readonly guests: Guests;
      readonly disks: Disks;
      readonly streams: Streams;
    },
  ) {
    operations.effect('clone', (a: CloneArgument) => this.endClone(a));
    operations.effect('rebuild', (a: RebuildArgument) => this.endRebuild(a));
  }

  clone(key: string, spec: CloneSpec): Promise<Operation> {
    return this.parts.room.oneAtATime(async () => {
      const known = await this.operations.get(key);
      if (known) return known;
      const { name, site, network, processors, memoryBytes, graphics, imageId, disks } = spec;
      const image = await this.parts.images.need(imageId);
      const wanted: WantedMachine = {
        id: idOfMachine(key),
        name,
        site,
        network,
        size: { processors, memoryBytes, graphics },
        bytes: await this.bytesOf(site, disks, image),
      };
      await this.parts.room.need(wanted);
      if (disks.kind === 'network') {
        await this.parts.streams.needRoom(disks.store, imageId);
        await this.parts.streams.needStream(disks.store, name);
      }
      return this.operations.begin({
        key,
        call: 'clone',
        subject: name,
        minutes: minutesOf.clone[disks.kind],
        effect: 'clone',
        argument: { wanted, imageId, disks } satisfies CloneArgument,
      });
    });
  }

  async rebuild(key: string, machineId: string, imageId: string): Promise<Operation> {
    const row = await this.parts.machines.need(machineId);
    const disks = await this.parts.disks.placesOf(machineId);
    if (!disks) throw new EstateError('not found', `${row.name} has no disk to be made anew`);
    return this.operations.begin({
      key,
      call: 'rebuild',
      subject: row.name,
      minutes: minutesOf.rebuild[disks.kind],
      effect: 'rebuild',
      argument: { id: machineId, imageId, disks } satisfies RebuildArgument,
    });
  }

  /** What a clone takes at first on each datastore; its parent where that is not there yet. */
  private async bytesOf(
    site: string,
    disks: CloneDisks,
    image: { readonly id: string; readonly size_bytes: number },
  ): Promise<[string, number][]> {
    const bytes = new Map<string, number>();
    const add = (datastore: string, size: number) => bytes.set(datastore, (bytes.get(datastore) ?? 0) + size);
    for (const disk of disksOfClone(disks, image.size_bytes, 0)) add(disk.datastore, disk.bytes);
    if (disks.kind === 'linked' && !(await this.parts.disks.hasParent(image.id, site, disks.parentDatastore)))
      add(disks.parentDatastore, image.size_bytes);
    return [...bytes];
  }

  private async endClone({ wanted, imageId, disks }: CloneArgument): Promise<string> {
    const image = await this.parts.images.need(imageId);
    const guest = await this.parts.guests.of(image);
    await this.parts.machines.insert({ ...wanted, power: 'on', guest, imageId });
    await this.addDisks(wanted, disks, image, this.disksOf(wanted.name, disks, image.size_bytes));
    await this.beginStream(wanted, disks, imageId);
    return wanted.id;
  }

  /** Cut short between its writes it is done again, so that where disks go is known from its beginning. */
  private async endRebuild(a: RebuildArgument): Promise<string> {
    const image = await this.parts.images.need(a.imageId);
    const machine = await this.parts.machines.need(a.id);
    const disks = a.disks ?? (await this.parts.disks.placesOf(a.id));
    // What a host had mounted is gone with its disk.
    await this.db.deleteFrom('mount').where('host', '=', machine.name).execute();
    if (disks) {
      const fresh = this.disksOf(machine.name, disks, image.size_bytes).filter(
        (disk) => disk.role !== 'data',
      );
      await this.parts.disks.remove(a.id, ['data']);
      await this.addDisks(machine, disks, image, fresh);
      await this.beginStream(machine, disks, a.imageId);
    }
    const guest = await this.parts.guests.of(image);
    await this.parts.machines.madeFrom(a.id, a.imageId);
    return this.parts.machines.change(a.id, () => guest, 'on');
  }

  private async beginStream(
    machine: { readonly id: string; readonly name: string },
    disks: CloneDisks,
    imageId: string,
  ): Promise<void> {
    if (disks.kind !== 'network') return;
    const { store, scratchBytes } = disks;
    await this.parts.streams.needRoom(store, imageId);
    await this.parts.streams.begin(machine, { store, imageId, scratchBytes });
  }

  private disksOf(name: string, disks: CloneDisks, imageBytes: number): NewDisk[] {
    return disksOfClone(disks, imageBytes, this.parts.disks.growthOf(name));
  }

  private addDisks(
    machine: { readonly id: string; readonly site: string },
    disks: CloneDisks,
    image: { readonly id: string; readonly size_bytes: number },
    own: readonly NewDisk[],
  ): Promise<void> {
    const parent =
      disks.kind === 'linked'
        ? { imageId: image.id, datastore: disks.parentDatastore, bytes: image.size_bytes }
        : undefined;
    return this.parts.disks.add(machine, own, parent);
  }
}
