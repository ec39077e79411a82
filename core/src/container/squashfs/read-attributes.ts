/** Reads the extended attributes of an image; lists that inodes share are read once. */
import { ContainerFault, type ByteSource } from '../bytes.ts';
import { MOST_ATTRIBUTE_BYTES } from '../limits.ts';
import { StructReader } from '../struct.ts';
import type { ExtendedAttribute } from '../tree.ts';
import { utf8Text } from '../utf8.ts';
import { ATTRIBUTE_ROW_BYTES, attributeSpaces, METADATA_BYTES, NONE_32, VALUE_ELSEWHERE } from './format.ts';
import type { MetadataCursor, MetadataReader } from './metadata-reader.ts';
import type { Superblock } from './superblock.ts';

/** A system takes 64 KiB of names for a file, and 64 KiB for a value. */
const MOST_NAMES_BYTES = 65_536;
const MOST_VALUE_BYTES = 65_536;
const ROWS_A_BLOCK = METADATA_BYTES / ATTRIBUTE_ROW_BYTES;

/** Where names and values begin, and how many rows there are. */
interface Table {
  readonly pairs: number;
  readonly rows: number;
}

export class AttributeReader {
  private readonly known = new Map<number, readonly ExtendedAttribute[]>();
  private table: Table | undefined;

  constructor(
    private readonly source: ByteSource,
    private readonly superblock: Superblock,
    private readonly metadata: MetadataReader,
  ) {}

  /** The attributes of a row, in byte order of their names. Throws `ContainerFault`. */
  async list(number: number): Promise<readonly ExtendedAttribute[]> {
    const { attributeTable } = this.superblock;
    if (number === NONE_32 || attributeTable < 0) return [];
    const known = this.known.get(number);
    if (known) return known;
    const list = await this.read(number);
    this.known.set(number, list);
    return list;
  }

  private async read(number: number): Promise<readonly ExtendedAttribute[]> {
    const table = (this.table ??= await this.readTable());
    if (number >= table.rows) throw new ContainerFault(`points to attributes ${number} of ${table.rows}`);
    const pointer = await this.source.read(
      this.superblock.attributeTable + 16 + Math.floor(number / ROWS_A_BLOCK) * 8,
      8,
    );
    const block = new StructReader(pointer, 'the attribute table').u64();
    const offset = (number % ROWS_A_BLOCK) * ATTRIBUTE_ROW_BYTES;
    const row = new StructReader(
      await this.metadata.at(block, { block: 0, offset }).take(ATTRIBUTE_ROW_BYTES),
      'the attribute table',
    );
    const place = placeOf(row.u64());
    const count = row.u32();
    const cursor = this.metadata.at(table.pairs, place);
    const list: ExtendedAttribute[] = [];
    let [names, values] = [0, 0];
    for (let i = 0; i < count; i++) {
      const attribute = await this.pair(cursor, table);
      names += attribute.name.length;
      values += attribute.value.length;
      if (names > MOST_NAMES_BYTES || values > MOST_ATTRIBUTE_BYTES)
        throw new ContainerFault('has more extended attributes of one entry than a system takes');
      list.push(attribute);
    }
    return list.sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  private async readTable(): Promise<Table> {
    const head = new StructReader(
      await this.source.read(this.superblock.attributeTable, 16),
      'the attribute table',
    );
    return { pairs: head.u64(), rows: head.u32() };
  }

  private async pair(cursor: MetadataCursor, table: Table): Promise<ExtendedAttribute> {
    const head = new StructReader(await cursor.take(4), 'an attribute');
    const type = head.u16();
    const space = attributeSpaces[type & ~VALUE_ELSEWHERE];
    if (space === undefined)
      throw new ContainerFault(`has an extended attribute of an unknown kind, ${type}`);
    const name = space + utf8Text(await cursor.take(head.u16()), 'a name of an attribute');
    const value = await sized(cursor);
    if (!(type & VALUE_ELSEWHERE)) return { name, value };
    const place = placeOf(new StructReader(value, 'an attribute').u64());
    return { name, value: await sized(this.metadata.at(table.pairs, place)) };
  }
}

async function sized(cursor: MetadataCursor): Promise<Uint8Array> {
  const length = new StructReader(await cursor.take(4), 'an attribute').u32();
  if (length > MOST_VALUE_BYTES) throw new ContainerFault(`has an extended attribute of ${length} bytes`);
  return cursor.take(length);
}

/** Start of a block in the compressed table, and offset in the block. */
function placeOf(reference: number): { block: number; offset: number } {
  return { block: Math.floor(reference / 65_536), offset: reference % 65_536 };
}
