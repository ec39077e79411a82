/** Writes a SquashFS 4.0 image: zlib, fragments, duplicates stored once, byte for byte reproducible. */
import type { PackedFile } from '../bill-of-materials.ts';
import type { ByteSink, Codecs } from '../bytes.ts';
import { refuseUnreadable } from '../limits.ts';
import { StructWriter } from '../struct.ts';
import {
  dateIn,
  nestEntries,
  newestOf,
  NO_OWNER,
  type Tree,
  type TreeEntry,
  type TreeNode,
} from '../tree.ts';
import { DataWriter, type FilePlace } from './data-writer.ts';
import { AttributeWriter } from './attribute-writer.ts';
import { DATA_BYTES, flags, inodeType, MAGIC, NONE_32, PADDING, SUPERBLOCK_BYTES, ZLIB } from './format.ts';
import { InodeOwners } from './inode-owners.ts';
import {
  fileInode,
  folderInode,
  linkInode,
  listing,
  type InodeHead,
  type ListedChild,
} from './inode-records.ts';
import { manifestTrailer } from './trailer.ts';
import { MetadataWriter, type MetadataPlace } from './metadata-writer.ts';

export interface SquashfsOptions {
  /** The package's manifest as JSON, kept behind the image; nothing when empty. */
  readonly manifest: string;
  /** Seconds since 1970 that every entry gets as its date; without it files keep their own. */
  readonly epoch?: number;
  /** Blocks compressed at once. The bytes do not depend on it. */
  readonly parallel?: number;
  /** Told after every entry whose content is written. */
  readonly onProgress?: (done: number, of: number) => void;
  /** Asked between files; throw in it to stop. */
  readonly checkCancelled?: () => void;
}

/** Writes the image; the sink must be empty. Gives the files with their digests, in the tree's order. */
export async function writeSquashfs(
  tree: Tree,
  sink: ByteSink,
  codecs: Codecs,
  options: SquashfsOptions,
): Promise<readonly PackedFile[]> {
  await sink.skip(SUPERBLOCK_BYTES);
  const data = new DataWriter(tree, sink, codecs, options.parallel ?? 16, repeatedSizes(tree.entries));
  const places = await writeData(tree, data, options);
  const newest = newestOf(tree.entries);
  const date = dateIn(options.epoch, newest);
  const root = nestEntries(tree.entries);
  const tables = new TreeTables(codecs, places, date);
  const rootPlace = await tables.write(root);
  const starts = await writeTables(sink, codecs, tables, data);
  const used = sink.size;
  refuseUnreadable(tree.entries, used, data.holeBytes);
  await sink.append(new Uint8Array((PADDING - (used % PADDING)) % PADDING));
  if (options.manifest) await sink.append(manifestTrailer(options.manifest));
  await sink.writeAt(
    0,
    superblock({
      inodes: tables.inodeCount,
      owners: tables.owners.ids.length,
      date: date(),
      fragments: data.fragments.length,
      root: rootPlace,
      used,
      ...starts,
    }),
  );
  return data.files;
}

async function writeData(
  tree: Tree,
  data: DataWriter,
  options: SquashfsOptions,
): Promise<Map<TreeEntry, FilePlace>> {
  const places = new Map<TreeEntry, FilePlace>();
  const firstNames = new Set(tree.entries.flatMap(({ sameAs }) => sameAs ?? []));
  const firsts = new Map<string, { place: FilePlace; file: PackedFile | undefined }>();
  for (const [i, entry] of tree.entries.entries()) {
    if (entry.kind !== 'file') continue;
    options.checkCancelled?.();
    const { path, sameAs } = entry;
    const first = sameAs === undefined ? undefined : firsts.get(sameAs);
    if (first?.file) data.files.push({ ...first.file, path });
    const place = first?.place ?? (await data.add(entry));
    places.set(entry, place);
    if (firstNames.has(path)) firsts.set(path, { place, file: data.files.at(-1) });
    options.onProgress?.(i + 1, tree.entries.length);
  }
  await data.end();
  return places;
}

function repeatedSizes(entries: readonly TreeEntry[]): Set<number> {
  const seen = new Set<number>();
  const repeated = new Set<number>();
  for (const { kind, size } of entries) {
    if (kind !== 'file') continue;
    if (seen.has(size)) repeated.add(size);
    seen.add(size);
  }
  return repeated;
}

/** Inodes and listings, children before the folder that lists them. */
class TreeTables {
  readonly inodes: MetadataWriter;
  readonly folders: MetadataWriter;
  readonly attributes: AttributeWriter;
  readonly owners = new InodeOwners();
  private numbers = 0;
  private readonly encoder = new TextEncoder();
  /** Files with several names, by the first of them: one inode each. */
  private readonly shared: ReadonlyMap<string, SharedInode>;

  constructor(
    codecs: Codecs,
    private readonly places: ReadonlyMap<TreeEntry, FilePlace>,
    private readonly date: (entry?: TreeEntry) => number,
  ) {
    this.inodes = new MetadataWriter(codecs);
    this.folders = new MetadataWriter(codecs);
    this.attributes = new AttributeWriter(codecs);
    this.shared = sharedInodes(places.keys());
  }

  get inodeCount(): number {
    return this.numbers;
  }

  /** Gives the place of the root's inode. */
  async write(root: TreeNode): Promise<MetadataPlace> {
    const number = ++this.numbers;
    // The root's parent is a number that no inode has.
    const place = await this.folder(root, number, NONE_32 - 1);
    await this.inodes.end();
    await this.folders.end();
    await this.attributes.pairs.end();
    return place;
  }

  private async folder(node: TreeNode, number: number, parent: number): Promise<MetadataPlace> {
    // Children are numbered together, so that their numbers stay close to each other.
    const numbers = node.children.map((child) => this.numberOf(child));
    const children: ListedChild[] = [];
    for (const [i, child] of node.children.entries()) {
      const own = numbers[i] ?? 0;
      const inode = await this.child(child, own, number);
      children.push({ name: this.encoder.encode(child.name), type: typeOf(child), number: own, inode });
    }
    const list = listing(children);
    const at = this.folders.place;
    const base = this.folders.starts.length;
    await this.folders.append(list.bytes);
    const place = this.inodes.place;
    const record = folderInode(await this.head(node, number), {
      listing: list,
      at,
      blockStart: (block) => this.folders.starts[base + block] ?? this.folders.bytes,
      folders: node.children.filter((child) => child.entry?.kind === 'folder').length,
      parent,
    });
    await this.inodes.append(record);
    return place;
  }

  private async child(node: TreeNode, number: number, parent: number): Promise<MetadataPlace> {
    const { entry } = node;
    if (!entry || entry.kind === 'folder') return this.folder(node, number, parent);
    const shared = this.sharedBy(entry);
    if (shared?.place) return shared.place;
    const head = await this.head(node, number);
    const place = this.inodes.place;
    if (entry.kind === 'link') await this.inodes.append(linkInode(head, entry.target ?? ''));
    else {
      const content = this.places.get(entry);
      if (!content) throw new Error(`${entry.path} was not written`);
      await this.inodes.append(fileInode(head, entry.size, content, shared?.names ?? 1));
    }
    if (shared) shared.place = place;
    return place;
  }

  /** A file with several names has one number. */
  private numberOf({ entry }: TreeNode): number {
    const shared = entry && this.sharedBy(entry);
    if (!shared) return ++this.numbers;
    return (shared.number ??= ++this.numbers);
  }

  private sharedBy(entry: TreeEntry): SharedInode | undefined {
    return entry.kind === 'file' ? this.shared.get(entry.sameAs ?? entry.path) : undefined;
  }

  private async head({ entry }: TreeNode, number: number): Promise<InodeHead> {
    const owner = entry?.owner ?? NO_OWNER;
    return {
      mode: entry?.mode ?? 0o755,
      modified: this.date(entry),
      number,
      user: this.owners.placeOf(owner.user),
      group: this.owners.placeOf(owner.group),
      attributes: await this.attributes.add(entry?.attributes ?? []),
    };
  }
}

function typeOf(node: TreeNode): number {
  return inodeType[node.entry?.kind ?? 'folder'];
}

interface SharedInode {
  names: number;
  number?: number;
  /** Once it is written. */
  place?: MetadataPlace;
}

function sharedInodes(files: Iterable<TreeEntry>): Map<string, SharedInode> {
  const shared = new Map<string, SharedInode>();
  for (const { sameAs } of files) {
    if (sameAs === undefined) continue;
    const known = shared.get(sameAs);
    if (known) known.names++;
    else shared.set(sameAs, { names: 2 });
  }
  return shared;
}

interface TableStarts {
  readonly inodeTable: number;
  readonly folderTable: number;
  readonly fragmentTable: number;
  readonly ownerTable: number;
  /** Undefined when nothing has extended attributes. */
  readonly attributeTable: number | undefined;
}

async function writeTables(
  sink: ByteSink,
  codecs: Codecs,
  tables: TreeTables,
  data: DataWriter,
): Promise<TableStarts> {
  const inodeTable = sink.size;
  for (const chunk of tables.inodes.chunks) await sink.append(chunk);
  const folderTable = sink.size;
  for (const chunk of tables.folders.chunks) await sink.append(chunk);
  const fragments = data.fragments.map(({ start, size }) => new StructWriter(16).u64(start).u32(size).bytes);
  const fragmentTable = await writeIndexed(sink, codecs, fragments);
  const owners = tables.owners.ids.map((id) => new StructWriter(4).u32(id).bytes);
  const ownerTable = await writeIndexed(sink, codecs, owners);
  const attributeTable = await writeAttributes(sink, codecs, tables.attributes);
  return { inodeTable, folderTable, fragmentTable, ownerTable, attributeTable };
}

/** Names and values, rows, and a head before the list of where the rows' blocks are. */
async function writeAttributes(
  sink: ByteSink,
  codecs: Codecs,
  { pairs, rows }: AttributeWriter,
): Promise<number | undefined> {
  if (rows.length === 0) return undefined;
  const start = sink.size;
  for (const chunk of pairs.chunks) await sink.append(chunk);
  return writeIndexed(sink, codecs, rows, new StructWriter(16).u64(start).u32(rows.length).u32(0).bytes);
}

/** A table with a list of where its blocks are behind it, and a head before that. Gives where head and list begin. */
async function writeIndexed(
  sink: ByteSink,
  codecs: Codecs,
  records: readonly Uint8Array[],
  head: Uint8Array = new Uint8Array(),
): Promise<number> {
  const table = new MetadataWriter(codecs);
  for (const record of records) await table.append(record);
  await table.end();
  const start = sink.size;
  for (const chunk of table.chunks) await sink.append(chunk);
  const list = new StructWriter(table.starts.length * 8);
  for (const block of table.starts) list.u64(start + block);
  const listStart = sink.size;
  await sink.append(head);
  await sink.append(list.bytes);
  return listStart;
}

interface Totals extends TableStarts {
  readonly inodes: number;
  readonly owners: number;
  readonly date: number;
  readonly fragments: number;
  readonly root: MetadataPlace;
  readonly used: number;
}

function superblock(totals: Totals): Uint8Array {
  return new StructWriter(SUPERBLOCK_BYTES)
    .u32(MAGIC)
    .u32(totals.inodes)
    .u32(Math.min(Math.max(0, totals.date), NONE_32))
    .u32(DATA_BYTES)
    .u32(totals.fragments)
    .u16(ZLIB)
    .u16(Math.log2(DATA_BYTES))
    .u16(flags.duplicates | (totals.attributeTable === undefined ? flags.noXattrs : 0))
    .u16(totals.owners)
    .u16(4)
    .u16(0)
    .u16(totals.root.offset)
    .u32(totals.root.block)
    .u16(0)
    .u64(totals.used)
    .u64(totals.ownerTable)
    .u64orNone(totals.attributeTable)
    .u64(totals.inodeTable)
    .u64(totals.folderTable)
    .u64(totals.fragmentTable)
    .u64orNone(undefined).bytes;
}
