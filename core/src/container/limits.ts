/**
 * How much a container may unpack to. A few bytes of a hostile one can claim any size, so sizes
 * are added up before content is read, and reading stops where the sum passes the limit.
 */
import { ContainerFault } from './bytes.ts';
import type { ExtendedAttribute, TreeEntry } from './tree.ts';

export interface ReadLimits {
  readonly entries: number;
  /** Of all files together. */
  readonly bytes: number;
}

const GIB = 2 ** 30;

/** Generous for what people pack, and bounded: 16 GiB, or a hundred times the container's own size. */
export function limitsFor(containerBytes: number): ReadLimits {
  return { entries: 2_000_000, bytes: Math.max(16 * GIB, 100 * containerBytes) };
}

/** Extended attributes are held in memory; a system takes 64 KiB of them for a file, and few files have any. */
export const MOST_ATTRIBUTE_BYTES = 64 * 2 ** 20;

/** Entries as they are found. Throws `ContainerFault` at the first that passes a limit. */
export class EntryList {
  readonly entries: TreeEntry[] = [];
  private bytes = 0;
  private attributeBytes = 0;
  /** Lists that several entries share are held once. */
  private readonly counted = new WeakSet();

  constructor(private readonly limits: ReadLimits) {}

  add(entry: TreeEntry): void {
    this.bytes += entry.size;
    if (this.bytes > this.limits.bytes)
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
