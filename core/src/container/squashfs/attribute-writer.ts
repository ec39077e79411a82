/** The table of extended attributes of an image in the making; entries with the same ones share them. */
import type { Codecs } from '../bytes.ts';
import { StructWriter } from '../struct.ts';
import type { ExtendedAttribute } from '../tree.ts';
import { attributeSpaces, NONE_32 } from './format.ts';
import { MetadataWriter } from './metadata-writer.ts';

/** Whether the format has a place for an attribute of this name. */
export function keepsAttribute(name: string): boolean {
  return attributeSpaces.some((space) => name.startsWith(space) && name.length > space.length);
}

export class AttributeWriter {
  /** Names and values. */
  readonly pairs: MetadataWriter;
  /** A row for each list of them. */
  readonly rows: Uint8Array[] = [];
  private readonly known = new Map<string, number>();

  constructor(codecs: Pick<Codecs, 'deflate'>) {
    this.pairs = new MetadataWriter(codecs);
  }

  /** Number of the row of these attributes; `NONE_32` when none of them can be kept. */
  async add(attributes: readonly ExtendedAttribute[]): Promise<number> {
    const records = attributes.filter(({ name }) => keepsAttribute(name)).map(recordOf);
    if (records.length === 0) return NONE_32;
    // Each byte is a character of its own; records say how long they are.
    const key = records.map((record) => bytewise.decode(record)).join('');
    const known = this.known.get(key);
    if (known !== undefined) return known;
    const { block, offset } = this.pairs.place;
    let bytes = 0;
    for (const record of records) {
      await this.pairs.append(record);
      bytes += record.length;
    }
    const number = this.rows.length;
    this.rows.push(
      new StructWriter(16)
        .u64(block * 65_536 + offset)
        .u32(records.length)
        .u32(bytes).bytes,
    );
    this.known.set(key, number);
    return number;
  }
}

const encoder = new TextEncoder();
const bytewise = new TextDecoder('latin1');

function recordOf({ name, value }: ExtendedAttribute): Uint8Array {
  const type = attributeSpaces.findIndex((space) => name.startsWith(space));
  const rest = encoder.encode(name.slice((attributeSpaces[type] ?? '').length));
  return new StructWriter(4 + rest.length + 4 + value.length)
    .u16(type)
    .u16(rest.length)
    .raw(rest)
    .u32(value.length)
    .raw(value).bytes;
}
