/** The table of owners of an image in the making: each number of a user or group once. */
import { ContainerFault } from '../bytes.ts';

/** Inodes name an owner by a place of 16 bits. */
const MOST_OWNERS = 65_535;

export class InodeOwners {
  /** Of users and groups alike, as they came. */
  readonly ids: number[] = [];
  private readonly places = new Map<number, number>();

  /** Place of a number in the table. Throws `ContainerFault` where it takes no more. */
  placeOf(id: number): number {
    const known = this.places.get(id);
    if (known !== undefined) return known;
    if (this.ids.length === MOST_OWNERS)
      throw new ContainerFault(`has more than ${MOST_OWNERS} different owners, which SquashFS cannot name`);
    this.places.set(id, this.ids.length);
    return this.ids.push(id) - 1;
  }
}
