/** The resource tree of a program file: type, name, language, each a directory (PE/COFF specification, .rsrc). */
import { ContainerFault, type ByteSource } from '../../container/bytes.ts';

export const ICON_GROUP = 14;
export const VERSION = 16;

const MOST_ENTRIES = 4096;
const MOST_BYTES = 1 << 16;
const DOWN = 0x80000000;

interface Row {
  readonly id: number;
  readonly offset: number;
  readonly isDirectory: boolean;
}

export class ResourceDirectory {
  constructor(
    private readonly source: ByteSource,
    private readonly part: { readonly offset: number; readonly size: number },
    /** Address in memory of the part's first byte. */
    private readonly rva: number,
  ) {}

  async has(type: number): Promise<boolean> {
    return (await this.rows(0)).some((row) => row.id === type);
  }

  /** The bytes of the first resource of a type, in its first language. */
  async first(type: number): Promise<Uint8Array | undefined> {
    const top = (await this.rows(0)).find((row) => row.id === type);
    if (!top?.isDirectory) return undefined;
    const [named] = await this.rows(top.offset);
    if (!named) return undefined;
    const [leaf] = named.isDirectory ? await this.rows(named.offset) : [named];
    if (!leaf || leaf.isDirectory) return undefined;
    const data = await this.read(leaf.offset, 16);
    const [address, size] = [data.getUint32(0, true), data.getUint32(4, true)];
    if (size > MOST_BYTES) throw new ContainerFault(`has a resource of ${size} bytes where a few are usual`);
    const bytes = await this.read(address - this.rva, size);
    return new Uint8Array(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }

  private async rows(offset: number): Promise<Row[]> {
    const head = await this.read(offset, 16);
    const count = head.getUint16(12, true) + head.getUint16(14, true);
    if (count > MOST_ENTRIES) throw new ContainerFault(`has ${count} entries in a resource directory`);
    const table = await this.read(offset + 16, count * 8);
    return Array.from({ length: count }, (_none, i) => {
      const to = table.getUint32(i * 8 + 4, true);
      return {
        id: table.getUint32(i * 8, true),
        offset: to >= DOWN ? to - DOWN : to,
        isDirectory: to >= DOWN,
      };
    });
  }

  private async read(offset: number, length: number): Promise<DataView> {
    if (offset < 0 || offset + length > this.part.size)
      throw new ContainerFault('has a resource that lies outside of its resources');
    const bytes = await this.source.read(this.part.offset + offset, length);
    return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
  }
}
