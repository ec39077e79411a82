/** Reads a FAT32 volume, ours or another tool's, and trusts nothing that it says. */
import { ContainerFault, type ByteSource } from '../bytes.ts';
import { checkName, EntryList, type ReadLimits } from '../limits.ts';
import { AllocationTable } from './allocation-table.ts';
import { modeOnDisk } from '../losses.ts';
import { inPieces, joined } from '../pieces.ts';
import { StructReader } from '../struct.ts';
import type { Tree, TreeEntry } from '../tree.ts';
import { parseFolder, type FoundRecord } from './read-folder.ts';
import { MOST_CLUSTERS, MOST_RECORDS, SECTOR } from './plan.ts';
import { RECORD_BYTES } from './names.ts';

interface Shape {
  readonly clusterBytes: number;
  readonly fatOffset: number;
  readonly dataOffset: number;
  readonly clusters: number;
  readonly root: number;
}

const MOST_DEPTH = 1024;
/** Content is read in runs of neighbouring clusters up to this many bytes. */
const RUN_BYTES = 1024 * 1024;
const END = 0x0ffffff8;

export class Fat32Volume implements Tree {
  private readonly starts = new Map<TreeEntry, number>();
  /** A bit for each cluster that a chain has used. */
  private readonly seen: Uint8Array;
  label = '';

  private constructor(
    private readonly volume: ByteSource,
    private readonly shape: Shape,
    private readonly table: AllocationTable,
    private readonly list: EntryList,
  ) {
    this.seen = new Uint8Array(((shape.clusters + 2) >> 3) + 1);
  }

  /** Reads the allocation table and all folders. Throws `ContainerFault` for the first thing that cannot be. */
  static async open(volume: ByteSource, limits: ReadLimits): Promise<Fat32Volume> {
    const shape = await readShape(volume);
    const table = new AllocationTable(volume, shape.fatOffset);
    const found = new Fat32Volume(volume, shape, table, new EntryList(limits));
    await found.walk(shape.root, '', 0);
    return found;
  }

  get entries(): readonly TreeEntry[] {
    return this.list.entries;
  }

  read(entry: TreeEntry, piece: number): AsyncIterable<Uint8Array> {
    const start = this.starts.get(entry);
    if (start === undefined) throw new Error(`${entry.path} is no file of this volume`);
    return inPieces(this.content(start, entry.size), piece);
  }

  private async walk(cluster: number, path: string, depth: number): Promise<void> {
    if (depth > MOST_DEPTH) throw new ContainerFault(`has folders deeper than ${MOST_DEPTH}`);
    const runs = await this.runs(cluster, MOST_RECORDS * RECORD_BYTES, path || 'its root');
    const parts: Uint8Array[] = [];
    for (const run of runs) parts.push(await this.volume.read(run.offset, run.length));
    const { records, label } = parseFolder(joined(parts));
    if (depth === 0) this.label = label;
    const names = new Set<string>();
    for (const record of records) {
      checkName(record.name, path);
      const key = record.name.toUpperCase();
      if (names.has(key)) throw new ContainerFault(`has ${record.name} twice in ${path || 'its root'}`);
      names.add(key);
      await this.take(record, path === '' ? record.name : `${path}/${record.name}`, depth);
    }
  }

  private async take(record: FoundRecord, path: string, depth: number): Promise<void> {
    const { isFolder, size, modified, cluster } = record;
    const kind = isFolder ? 'folder' : 'file';
    const entry: TreeEntry = { path, kind, size: isFolder ? 0 : size, mode: modeOnDisk(kind), modified };
    this.list.add(entry);
    if (isFolder) return this.walk(cluster, path, depth + 1);
    // Following the chain here finds what is broken before anybody relies on it.
    if (size > 0) await this.runs(cluster, size, path);
    this.starts.set(entry, cluster);
    return undefined;
  }

  /**
   * The chain as runs of neighbouring clusters. Throws `ContainerFault` when a cluster is outside
   * of the volume, free, or in a chain already, which also ends chains that bite their tail.
   */
  private async runs(
    first: number,
    bytes: number,
    what: string,
  ): Promise<{ offset: number; length: number }[]> {
    const runs = await this.chain(first, bytes, what);
    for (const { first: from, count } of runs)
      for (let cluster = from; cluster < from + count; cluster++) {
        const [byte, bit] = [cluster >> 3, 1 << (cluster & 7)];
        const before = this.seen[byte] ?? 0;
        if (before & bit) throw new ContainerFault(`has cluster ${cluster} of ${what} in two places`);
        this.seen[byte] = before | bit;
      }
    return runs.map((run) => this.extent(run));
  }

  private async chain(
    first: number,
    bytes: number,
    what: string,
  ): Promise<{ first: number; count: number }[]> {
    const runs: { first: number; count: number }[] = [];
    const most = Math.ceil(bytes / this.shape.clusterBytes);
    let cluster = first;
    for (let count = 0; cluster < END; count++) {
      if (cluster < 2 || cluster >= this.shape.clusters + 2)
        throw new ContainerFault(`has a chain of ${what} that leads outside of the volume, to ${cluster}`);
      if (count >= most) throw new ContainerFault(`has a chain of ${what} longer than ${bytes} bytes need`);
      const run = runs.at(-1);
      if (run && run.first + run.count === cluster) run.count++;
      else runs.push({ first: cluster, count: 1 });
      cluster = this.table.known(cluster) ?? (await this.table.next(cluster));
    }
    return runs;
  }

  private extent({ first, count }: { first: number; count: number }): { offset: number; length: number } {
    const { clusterBytes, dataOffset } = this.shape;
    return { offset: dataOffset + (first - 2) * clusterBytes, length: count * clusterBytes };
  }

  private async *content(first: number, size: number): AsyncGenerator<Uint8Array> {
    let left = size;
    if (left === 0) return;
    for (const run of await this.chain(first, size, 'a file')) {
      const { offset, length } = this.extent(run);
      for (let from = 0; from < length && left > 0;) {
        const part = Math.min(RUN_BYTES, length - from, left);
        yield await this.volume.read(offset + from, part);
        from += part;
        left -= part;
      }
    }
    if (left > 0) throw new ContainerFault(`has a file whose chain ends ${left} bytes early`);
  }
}

async function readShape(volume: ByteSource): Promise<Shape> {
  const read = new StructReader(await volume.read(0, SECTOR), 'the boot sector', 11);
  const sectorBytes = read.u16();
  const sectorsPerCluster = read.u8();
  const reserved = read.u16();
  const tables = read.u8();
  const rootRecords = read.u16();
  const small = read.u16();
  const smallTable = read.seek(22).u16();
  const large = read.seek(32).u32();
  const tableSectors = read.u32();
  const root = read.seek(44).u32();
  if (![512, 1024, 2048, 4096].includes(sectorBytes))
    throw new ContainerFault(`has sectors of ${sectorBytes} bytes in its volume`);
  if (!Number.isInteger(Math.log2(sectorsPerCluster)) || sectorsPerCluster === 0)
    throw new ContainerFault(`has clusters of ${sectorsPerCluster} sectors`);
  if (smallTable !== 0 || rootRecords !== 0)
    throw new ContainerFault('holds a FAT12 or FAT16 volume; FAT32 is read');
  if (tables < 1 || tables > 2 || tableSectors === 0)
    throw new ContainerFault('has a boot sector that is no FAT32 volume');
  const sectors = small || large;
  const content = reserved + tables * tableSectors;
  const clusters = Math.floor((sectors - content) / sectorsPerCluster);
  if (sectors * sectorBytes > volume.size || clusters < 1 || clusters > MOST_CLUSTERS)
    throw new ContainerFault('has a volume that reaches beyond its partition');
  if ((clusters + 2) * 4 > tableSectors * sectorBytes)
    throw new ContainerFault('has an allocation table shorter than its clusters need');
  return {
    clusterBytes: sectorsPerCluster * sectorBytes,
    fatOffset: reserved * sectorBytes,
    dataOffset: content * sectorBytes,
    clusters,
    root,
  };
}
