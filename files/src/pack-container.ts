/** Builds a container of any format from a folder, whole or not at all, with its bill of materials beside it. */
import type { ContainerFormat } from '@vatline/core/container/formats';
import { existsSync, mkdirSync, renameSync, rmSync } from 'node:fs';
import { dirname } from 'node:path';
import { billOfMaterials, type PackedFile } from '@vatline/core/container/bill-of-materials';
import { refuseUnreadable } from '@vatline/core/container/limits';
import { lossesOf, type Loss } from '@vatline/core/container/losses';
import { writeSquashfs } from '@vatline/core/container/squashfs/write';
import type { Tree } from '@vatline/core/container/tree';
import { writeVhdx } from '@vatline/core/container/vhdx/write';
import { manifestText, type PackageManifest } from '@vatline/core/container/manifest';
import { temporaryName, writeAtomic } from './atomic.ts';
import { FileSink } from './byte-files.ts';
import { nodeCodecs } from './codecs.ts';
import { digestOfFile } from './digest-of-file.ts';
import { DigestingSink } from './digesting-sink.ts';
import { InputError } from './input-error.ts';
import { asInputError } from './open-container.ts';
import { unfinished } from './unfinished.ts';
import { writeOci } from './oci-write.ts';

export interface PackRequest {
  readonly tree: Tree;
  readonly format: ContainerFormat;
  /** Where the container goes; must not exist. */
  readonly out: string;
  readonly manifest: PackageManifest;
  /**
   * Seconds since 1970 that every entry gets as its date. Without it files keep their own dates
   * and folders get that of the newest file, so that nothing depends on when packing happens.
   */
  readonly epoch?: number;
  /** Blocks worked on at once; the bytes do not depend on it. */
  readonly parallel?: number;
  readonly onProgress?: (done: number, of: number) => void;
  /** Asked between files. */
  readonly cancelled?: () => boolean;
}

export interface Packed {
  readonly format: ContainerFormat;
  readonly files: number;
  readonly bytesIn: number;
  readonly bytesOut: number;
  /** Digest of the container in hex; of an OCI layout, of its manifest, which pins everything else. */
  readonly sha256: string;
  /** What of the tree the format cannot keep. */
  readonly lost: readonly Loss[];
}

interface Written {
  readonly files: readonly PackedFile[];
  readonly bytesOut: number;
  readonly sha256: string;
}

/** Packs a tree. Throws `InputError`; nothing is left at `out` unless all of it is. */
export async function packContainer(request: PackRequest): Promise<Packed> {
  const { out, format, manifest } = request;
  if (existsSync(out)) throw InputError.of(out, 'exists already; remove it or choose another name');
  mkdirSync(dirname(out), { recursive: true });
  const temporary = temporaryName(out);
  const whole = unfinished(temporary);
  try {
    const written =
      format === 'oci' ? await layoutOf(request, temporary) : await imageOf(request, format, temporary);
    // A compressed image has judged itself, since it knows its holes.
    if (format !== 'squashfs') refuseUnreadable(request.tree.entries, written.bytesOut, 0);
    writeAtomic(`${out}.cdx.json`, (append) => append(billOfMaterials(manifest, written.files)));
    renameSync(temporary, out);
    return {
      format,
      files: written.files.length,
      bytesIn: written.files.reduce((sum, file) => sum + file.size, 0),
      bytesOut: written.bytesOut,
      sha256: written.sha256,
      lost: lossesOf(format, request.tree.entries, request.epoch),
    };
  } catch (error) {
    rmSync(temporary, { recursive: true, force: true });
    throw asInputError(out, error);
  } finally {
    whole();
  }
}

async function layoutOf(request: PackRequest, folder: string): Promise<Written> {
  const { files, bytesOut, digest } = await writeOci(request.tree, folder, {
    ...howOf(request),
    manifest: request.manifest,
  });
  return { files, bytesOut, sha256: digest };
}

async function imageOf(
  request: PackRequest,
  format: Exclude<ContainerFormat, 'oci'>,
  path: string,
): Promise<Written> {
  const sink = FileSink.create(path);
  try {
    return format === 'squashfs'
      ? await compressedImage(request, sink, path)
      : await diskImage(request, format, sink, path);
  } catch (error) {
    sink.close();
    throw error;
  }
}

/** Its first bytes are written last, so the digest has to wait for the whole file. */
async function compressedImage(request: PackRequest, sink: FileSink, path: string): Promise<Written> {
  const files = await writeSquashfs(request.tree, sink, nodeCodecs, imageOptions(request));
  await sink.finish();
  return { files, bytesOut: sink.size, sha256: await digestOfFile(path) };
}

async function diskImage(
  request: PackRequest,
  format: 'vhdx' | 'vhdx-fixed',
  file: FileSink,
  path: string,
): Promise<Written> {
  const expectedBytes = request.tree.entries.reduce((sum, entry) => sum + entry.size, 0);
  const sink = new DigestingSink(file, path, expectedBytes);
  try {
    const written = await writeVhdx(request.tree, sink, nodeCodecs, {
      ...imageOptions(request),
      kind: format === 'vhdx' ? 'expandable' : 'fixed',
      label: request.manifest.name,
    });
    if (!written.ok) throw InputError.from(format, written.error);
    const [sha256] = await Promise.all([sink.digest(), file.finish()]);
    return { files: written.value, bytesOut: sink.size, sha256 };
  } finally {
    sink.close();
  }
}

function imageOptions(request: PackRequest) {
  return { ...howOf(request), manifest: manifestText(request.manifest) };
}

function howOf(request: PackRequest) {
  const { epoch, parallel, onProgress, cancelled } = request;
  return {
    ...(epoch === undefined ? {} : { epoch }),
    ...(parallel === undefined ? {} : { parallel }),
    ...(onProgress ? { onProgress } : {}),
    checkCancelled: () => {
      if (cancelled?.()) throw new Error('cancelled');
    },
  };
}
