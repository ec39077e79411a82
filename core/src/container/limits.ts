/**
 * How much a container may unpack to. A few bytes of a hostile one can claim any size, so sizes
 * are added up before content is read, and reading stops where the sum passes the limit.
 */
import { ContainerFault } from './bytes.ts';
import type { ExtendedAttribute, TreeEntry } from './tree.ts';

export interface ReadLimits {
  readonly entries: number;
  /** Of all files together, a file with several names once and without its holes. */
  readonly bytes: number;
  /** Of all holes together: they take no room where they are unpacked, but time. */
  readonly holeBytes: number;
}

const GIB = 2 ** 30;

/**
 * Generous for what people pack, and bounded: 16 GiB, or a hundred times the container's own size,
 * and 128 GiB of holes, which are read over in some minutes.
 */
export function limitsFor(containerBytes: number): ReadLimits {
  return { entries: 2_000_000, bytes: Math.max(16 * GIB, 100 * containerBytes), holeBytes: 128 * GIB };
}

/** Refuses to write what nobody could read again. Throws `ContainerFault`. `holeBytes`: in files, as the format keeps them. */
export function refuseUnreadable(
  entries: readonly TreeEntry[],
  containerBytes: number,
  holeBytes: number,
): void {
  const limits = limitsFor(containerBytes);
  const all = entries.reduce((sum, entry) => sum + ownBytes(entry), 0);
  if (all - holeBytes > limits.bytes || holeBytes > limits.holeBytes || entries.length > limits.entries)
    throw new ContainerFault(
      `would unpack to ${all.toLocaleString('en-GB')} bytes in ${entries.length.toLocaleString('en-GB')} entries, which is more than is read of a container of ${containerBytes.toLocaleString('en-GB')} bytes`,
    );
}

function ownBytes({ size, sameAs }: TreeEntry): number {
  return sameAs === undefined ? size : 0;
}

/** Extended attributes are held in memory; a system takes 64 KiB of them for a file, and few files have any. */
export const MOST_ATTRIBUTE_BYTES = 64 * 2 ** 20;

/** Entries as they are found. Throws `ContainerFault` at the first that passes a limit. */
export class EntryList {
  readonly entries: TreeEntry[] = [];
  private bytes = 0;
  private holeBytes = 0;
  private attributeBytes = 0;
  /** Lists that several entries share are held once. */
  private readonly counted = new WeakSet();

  constructor(private readonly limits: ReadLimits) {}

  /** `holeBytes`: how many of its bytes are in holes, where the format has such. */
  add(entry: TreeEntry, holeBytes = 0): void {
    this.bytes += ownBytes(entry) - holeBytes;
    this.holeBytes += holeBytes;
    if (this.bytes > this.limits.bytes || this.holeBytes > this.limits.holeBytes)
      throw new ContainerFault(
        `claims to unpack to more than ${this.limits.bytes} bytes (at ${entry.path}); it is not read further`,
      );
    if (this.entries.length >= this.limits.entries)
      throw new ContainerFault(`has more than ${this.limits.entries} entries; it is not read further`);
    if (entry.attributes) this.countAttributes(entry.path, entry.attributes);
    this.entries.push(entry);
  }

  private countAttributes(path: string, attributes: readonly ExtendedAttribute[]): void {
    if (this.counted.has(attributes)) return;
    this.counted.add(attributes);
    for (const { name, value } of attributes) this.attributeBytes += name.length + value.length;
    if (this.attributeBytes > MOST_ATTRIBUTE_BYTES)
      throw new ContainerFault(
        `has more than ${MOST_ATTRIBUTE_BYTES} bytes of extended attributes (at ${path}); it is not read further`,
      );
  }
}

/** A name as one part of a path. Throws `ContainerFault` for what would lead elsewhere. */
export function checkName(name: string, folder: string): void {
  const at = folder === '' ? 'its root' : folder;
  if (name === '' || name === '.' || name === '..')
    throw new ContainerFault(`has an entry named ${JSON.stringify(name)} in ${at}`);
  if (/[/\0]/.test(name))
    throw new ContainerFault(`has a name with a slash or NUL in ${at}: ${JSON.stringify(name)}`);
}
