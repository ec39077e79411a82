/** Writes a tree as a disk: a VHDX file with a partition table and a FAT32 volume. */
import type { PackedFile } from '../bill-of-materials.ts';
import type { ByteSink, Codecs, DigestQueue, Stretch } from '../bytes.ts';
import { planVolume, type VolumePlan } from '../fat32/plan.ts';
import {
  bootSector,
  bootSectorOffsets,
  contentOffset,
  usedStretches,
  volumeBytes,
  type VolumeFacts,
} from '../fat32/volume.ts';
import { diskSectors, FIRST_SECTOR, gptBack, gptFront, SECTOR, type PartitionedDisk } from '../gpt/table.ts';
import { guidFromDigest } from '../guid.ts';
import { dateIn, newestOf, type Tree } from '../tree.ts';
import { ok, refuse, type Result } from '../../result.ts';
import { DiskWriter, MOST_MANIFEST_BYTES, type DiskKind, type DiskShape } from './disk-writer.ts';
import { BLOCK_BYTES } from './format.ts';

export interface VhdxOptions {
  readonly kind: DiskKind;
  /** Name of the volume. */
  readonly label: string;
  /** The package's manifest as JSON, kept beside the disk; may be empty. */
  readonly manifest: string;
  /** Seconds since 1970 that every entry gets as its date; without it files keep their own. */
  readonly epoch?: number;
  /** Told after every file. */
  readonly onProgress?: (done: number, of: number) => void;
  /** Asked between files; throw in it to stop. */
  readonly checkCancelled?: () => void;
}

const encoder = new TextEncoder();
const NO_GUID = '00000000-0000-0000-0000-000000000000';
/** The first block holds the partition table, the second begins with the volume's boot sector: both name the disk. */
const IDENTITY_BLOCKS = 2;
const VOLUME_AT = FIRST_SECTOR * SECTOR;

/**
 * Writes the disk; the sink must be empty. Gives the files with their digests. Errors, before
 * anything is written: what FAT32 cannot hold.
 *
 * The disk, its partition and its volume are named by the digest of all content. The file's own
 * write GUID stands before the content is known, so it is of the manifest, paths and sizes alone.
 */
export async function writeVhdx(
  tree: Tree,
  sink: ByteSink,
  codecs: DiskCodecs,
  options: VhdxOptions,
): Promise<Result<readonly PackedFile[]>> {
  const planned = planVolume(tree.entries);
  if (!planned.ok) return planned;
  const manifest = encoder.encode(options.manifest);
  if (manifest.length > MOST_MANIFEST_BYTES)
    return refuse('manifest', `has ${manifest.length} bytes; a disk has room for ${MOST_MANIFEST_BYTES}`);
  const queue = codecs.newDigestQueue(planned.value.usedClusters * planned.value.clusterBytes);
  try {
    return ok(await writeDisk(tree, planned.value, sink, { codecs, queue, manifest, options }));
  } finally {
    queue.close();
  }
}

type DiskCodecs = Pick<Codecs, 'newHash' | 'newDigestQueue' | 'newBlock'>;

interface DiskWork {
  readonly codecs: DiskCodecs;
  readonly queue: DigestQueue;
  readonly manifest: Uint8Array;
  readonly options: VhdxOptions;
}

async function writeDisk(
  tree: Tree,
  plan: VolumePlan,
  sink: ByteSink,
  { codecs, queue, manifest, options }: DiskWork,
): Promise<readonly PackedFile[]> {
  const facts: VolumeFacts = {
    label: options.label,
    hiddenSectors: FIRST_SECTOR,
    date: dateIn(options.epoch, newestOf(tree.entries)),
  };
  const layout = { partitionSectors: plan.totalSectors, name: options.label };
  const content = new ContentDigests(plan, queue);
  const listing = tree.entries.map(({ path, size }) => `${size} ${path}\n`);
  const shape: DiskShape = {
    kind: options.kind,
    diskBytes: diskSectors(plan.totalSectors) * SECTOR,
    writeGuid: guidFromDigest(digestOf(codecs, manifest, encoder.encode(listing.join('')))),
    heldBlocks: IDENTITY_BLOCKS,
    expectedBlocks: keptBlocks(plan, options.kind),
  };
  const disk = await DiskWriter.begin(sink, shape, codecs.newBlock, content.take);
  // What names the disk comes from its content, so a stand-in keeps the place until the end.
  await disk.write(gptFront({ ...layout, diskGuid: NO_GUID, partitionGuid: NO_GUID }));
  let done = 0;
  const onFile = () => {
    options.onProgress?.(++done, plan.files.length);
    options.checkCancelled?.();
  };
  for await (const piece of volumeBytes(tree, plan, facts, onFile)) await disk.write(piece);
  await disk.settled();
  const identity = identityOf(codecs, content.files, manifest);
  const table: PartitionedDisk = { ...layout, ...identity };
  await disk.write(gptBack(table));
  disk.patch(0, gptFront(table));
  for (const offset of bootSectorOffsets)
    disk.patch(VOLUME_AT + offset, bootSector(plan, facts, identity.serial));
  await disk.end({ diskGuid: identity.diskGuid, manifest });
  return content.files;
}

/** Blocks that a disk's file has, unless whole blocks of content are zeros. */
export function keptBlocks(plan: VolumePlan, kind: DiskKind): number {
  const all = (diskSectors(plan.totalSectors) * SECTOR) / BLOCK_BYTES;
  if (kind === 'fixed') return all;
  let next = IDENTITY_BLOCKS;
  // The last block has the copy of the partition table.
  let kept = IDENTITY_BLOCKS + 1;
  for (const { from, to } of usedStretches(plan)) {
    const first = Math.max(next, Math.floor((VOLUME_AT + from) / BLOCK_BYTES));
    next = Math.max(next, Math.ceil((VOLUME_AT + to) / BLOCK_BYTES));
    kept += Math.max(0, next - first);
  }
  return kept;
}

/** Digests of the files, from the blocks of the disk as they pass by. */
class ContentDigests {
  readonly files: PackedFile[] = [];
  private readonly content: number;
  /** The file in work, and how much of it has passed. */
  private current = 0;
  private passed = 0;

  constructor(
    private readonly plan: VolumePlan,
    private readonly queue: DigestQueue,
  ) {
    this.content = VOLUME_AT + contentOffset(plan);
  }

  readonly take = async (index: number, block: Uint8Array): Promise<void> => {
    const stretches = this.stretchesIn(index * block.length, block.length);
    if (stretches.length === 0) return;
    for (const sha256 of await this.queue.take(block, stretches)) {
      const { node, bytes } = this.plan.files[this.files.length] ?? {};
      this.files.push({ path: node?.entry?.path ?? '', size: bytes ?? 0, sha256 });
    }
  };

  private stretchesIn(start: number, length: number): Stretch[] {
    const stretches: Stretch[] = [];
    for (let file = this.plan.files[this.current]; file; file = this.plan.files[this.current]) {
      if (file.bytes === 0) stretches.push({ from: 0, to: 0, ends: true });
      else {
        const at = this.content + (file.cluster - 2) * this.plan.clusterBytes - start;
        if (at + this.passed >= length) break;
        const to = Math.min(length, at + file.bytes);
        const ends = to === at + file.bytes;
        stretches.push({ from: at + this.passed, to, ends });
        this.passed = to - at;
        if (!ends) break;
      }
      this.current++;
      this.passed = 0;
    }
    return stretches;
  }
}

function identityOf(
  codecs: DiskCodecs,
  files: readonly PackedFile[],
  manifest: Uint8Array,
): { diskGuid: string; partitionGuid: string; serial: number } {
  const content = files.map((file) => `${file.sha256} ${file.path}\n`).join('');
  const all = digestOf(codecs, manifest, encoder.encode(content));
  const of = (what: string) => digestOf(codecs, encoder.encode(`${what} ${all}`));
  return {
    diskGuid: guidFromDigest(of('disk')),
    partitionGuid: guidFromDigest(of('partition')),
    serial: parseInt(of('volume').slice(0, 8), 16),
  };
}

function digestOf(codecs: DiskCodecs, ...parts: Uint8Array[]): string {
  const hash = codecs.newHash();
  for (const part of parts) hash.update(part);
  return hash.hex();
}
