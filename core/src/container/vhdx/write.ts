/** Writes a tree as a disk: a VHDX file with a partition table and a FAT32 volume. */
import type { PackedFile } from '../bill-of-materials.ts';
import type { ByteSink, Codecs, Hasher } from '../bytes.ts';
import { bootSector, bootSectorOffsets, volumeBytes, type VolumeFacts } from '../fat32/volume.ts';
import { planVolume } from '../fat32/plan.ts';
import { diskSectors, FIRST_SECTOR, gptBack, gptFront, SECTOR, type PartitionedDisk } from '../gpt/table.ts';
import { guidFromDigest } from '../guid.ts';
import { dateIn, newestOf, type Tree } from '../tree.ts';
import { ok, refuse, type Result } from '../../result.ts';
import { DiskWriter, MOST_MANIFEST_BYTES, type DiskKind } from './disk-writer.ts';

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

/**
 * Writes the disk; the sink must be empty. Gives the files with their digests. Errors, before
 * anything is written: what FAT32 cannot hold.
 */
export async function writeVhdx(
  tree: Tree,
  sink: ByteSink,
  codecs: Pick<Codecs, 'newHash' | 'digest'>,
  options: VhdxOptions,
): Promise<Result<readonly PackedFile[]>> {
  const planned = planVolume(tree.entries);
  if (!planned.ok) return planned;
  const manifest = encoder.encode(options.manifest);
  if (manifest.length > MOST_MANIFEST_BYTES)
    return refuse('manifest', `has ${manifest.length} bytes; a disk has room for ${MOST_MANIFEST_BYTES}`);
  const plan = planned.value;
  const facts: VolumeFacts = {
    label: options.label,
    hiddenSectors: FIRST_SECTOR,
    date: dateIn(options.epoch, newestOf(tree.entries)),
  };
  const layout = { partitionSectors: plan.totalSectors, name: options.label };
  const disk = await DiskWriter.begin(sink, options.kind, diskSectors(plan.totalSectors) * SECTOR);
  // What identifies the disk comes from its content, which is known at the end; until then a
  // stand-in keeps the place.
  await disk.write(gptFront({ ...layout, diskGuid: NO_GUID, partitionGuid: NO_GUID }));
  const digests = new ContentDigests(codecs, options, tree.entries.length);
  for await (const piece of volumeBytes(tree, plan, facts, digests.take)) await disk.write(piece);
  const files = await digests.files();
  const identity = identityOf(codecs, files, manifest);
  const table: PartitionedDisk = { ...layout, ...identity };
  await disk.write(gptBack(table));
  await disk.patch(0, gptFront(table));
  for (const offset of bootSectorOffsets)
    await disk.patch(FIRST_SECTOR * SECTOR + offset, bootSector(plan, facts, identity.serial));
  await disk.end({ ...identity, manifest });
  return ok(files);
}

/** Bytes whose digests are being worked out at once; they are kept in memory so long. */
const MOST_IN_WORK = 64 * 1024 * 1024;

/** Digests of the files as their content passes by: of files of one piece on other threads. */
class ContentDigests {
  private readonly results: Promise<PackedFile>[] = [];
  private hash: Hasher | undefined;
  private inWork = 0;

  constructor(
    private readonly codecs: Pick<Codecs, 'newHash' | 'digest'>,
    private readonly options: VhdxOptions,
    private readonly of: number,
  ) {}

  readonly take = async (
    { path, size }: { path: string; size: number },
    piece: Uint8Array,
    isLast: boolean,
  ): Promise<void> => {
    if (isLast && !this.hash) {
      this.inWork += size;
      const digest = this.codecs.digest(piece).then((sha256) => {
        this.inWork -= size;
        return { path, size, sha256 };
      });
      this.results.push(digest);
      if (this.inWork > MOST_IN_WORK) await digest;
    } else {
      this.hash ??= this.codecs.newHash();
      this.hash.update(piece);
      if (!isLast) return;
      this.results.push(Promise.resolve({ path, size, sha256: this.hash.hex() }));
      this.hash = undefined;
    }
    this.options.onProgress?.(this.results.length, this.of);
    this.options.checkCancelled?.();
  };

  files(): Promise<PackedFile[]> {
    return Promise.all(this.results);
  }
}

function identityOf(
  codecs: Pick<Codecs, 'newHash'>,
  files: readonly PackedFile[],
  manifest: Uint8Array,
): { diskGuid: string; partitionGuid: string; writeGuid: string; serial: number } {
  const digest = (...parts: Uint8Array[]): string => {
    const hash = codecs.newHash();
    for (const part of parts) hash.update(part);
    return hash.hex();
  };
  const content = files.map((file) => `${file.sha256} ${file.path}\n`).join('');
  const all = digest(manifest, encoder.encode(content));
  const of = (what: string) => digest(encoder.encode(`${what} ${all}`));
  return {
    diskGuid: guidFromDigest(of('disk')),
    partitionGuid: guidFromDigest(of('partition')),
    writeGuid: guidFromDigest(of('write')),
    serial: parseInt(of('volume').slice(0, 8), 16),
  };
}
