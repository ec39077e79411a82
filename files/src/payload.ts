/**
 * Unpacks payloads that somebody uploads: tar, tar.gz or ZIP. Nothing from an archive is trusted:
 * paths that climb out, absolute paths, links that lead outside, devices, truncated archives and
 * archives over the limit are refused, and a refused archive leaves nothing behind. Links are
 * written last, so that nothing is ever written through one.
 */
import {
  createReadStream,
  createWriteStream,
  mkdirSync,
  openSync,
  readSync,
  closeSync,
  rmSync,
  symlinkSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { createGunzip } from 'node:zlib';
import yauzl from 'yauzl';
import { ContainerFault } from '@vatline/core/container/bytes';
import { linksStayInside } from '@vatline/core/container/links';
import { MAX_PATH_BYTES, safePath } from '@vatline/core/container/safe-path';
import { readTar, type TarPart } from '@vatline/core/container/tar/read';
import { InputError } from './input-error.ts';
import { systemReason } from './system-reason.ts';

export interface PayloadLimits {
  /** Bytes that all files together may have. */
  readonly maxBytes: number;
  readonly maxEntries: number;
}

export const payloadLimits: PayloadLimits = { maxBytes: 8e9, maxEntries: 300_000 };

/** Of an entry in a tar: its header, an extended one for a long name, and what fills up the last block. */
const HEADER_BYTES = 2048;

export type ArchiveKind = 'tar' | 'tar.gz' | 'zip';

/** What an archive is, by its first bytes and not by its name; undefined when it is none of ours. */
export function archiveKind(file: string): ArchiveKind | undefined {
  const head = Buffer.alloc(512);
  const handle = openSync(file, 'r');
  const length = readSync(handle, head);
  closeSync(handle);
  if (head[0] === 0x1f && head[1] === 0x8b) return 'tar.gz';
  if (head.subarray(0, 4).equals(Buffer.from('PK\x03\x04', 'latin1'))) return 'zip';
  if (length === 512 && head.subarray(257, 262).toString('latin1') === 'ustar') return 'tar';
  return undefined;
}

/** Unpacks into a new folder. Throws `InputError`; the folder is then gone again. */
export async function unpackPayload(
  archive: string,
  folder: string,
  limits: PayloadLimits = payloadLimits,
): Promise<{ files: number; bytes: number }> {
  const kind = archiveKind(archive);
  if (!kind) throw InputError.of('payload', 'is neither tar, tar.gz nor ZIP');
  mkdirSync(folder, { recursive: true });
  const into = new Unpacking(folder, limits);
  try {
    if (kind === 'zip') await unzip(archive, into);
    else await untar(archive, kind === 'tar.gz', into);
    into.writeLinks();
    return { files: into.files, bytes: into.bytes };
  } catch (error) {
    rmSync(folder, { recursive: true, force: true });
    throw error instanceof InputError ? error : InputError.of('payload', describe(error));
  }
}

/** Streams end early with messages that say little to a person. */
function describe(error: unknown): string {
  const ofSystem = systemReason(error);
  if (ofSystem !== undefined) return `cannot be unpacked: something in it ${ofSystem}`;
  if (error instanceof ContainerFault) return error.message;
  const message = error instanceof Error ? error.message : String(error);
  if (/unexpected end/i.test(message)) return 'is truncated: the archive ends in the middle of an entry';
  if (/end of central directory/i.test(message))
    return 'is truncated: the ZIP directory at its end is missing';
  if (/invalid relative path|absolute path/i.test(message)) {
    return `${message.replace(/^.*: /, '')}: climbs out of the folder it is unpacked in or is absolute`;
  }
  return `cannot be read: ${message}`;
}

/** Writes entries into a folder and keeps to the limits. */
class Unpacking {
  files = 0;
  bytes = 0;
  private entries = 0;
  /** Targets by path. */
  private readonly links = new Map<string, string>();

  constructor(
    private readonly folder: string,
    private readonly limits: PayloadLimits,
  ) {}

  directory(raw: string): void {
    if (raw.replace(/[./\\]/g, '') === '') return;
    const path = this.place(raw);
    this.makeFolder(path, path);
  }

  /** Remembers a link; it is written once all of them are known and everything else is there. */
  link(raw: string, target: string): void {
    const path = this.place(raw);
    if (target === '' || Buffer.byteLength(target) > MAX_PATH_BYTES || target.includes('\0'))
      throw InputError.of('payload', 'is a link to nothing that could be a path', raw);
    if (this.links.has(path)) throw InputError.of('payload', 'is there twice', raw);
    this.links.set(path, target);
  }

  /** Throws `InputError` for a link that leads outside when followed for real, or that something lies below. */
  writeLinks(): void {
    const judged = linksStayInside(this.links);
    if (!judged.ok) throw InputError.from('payload', judged.error);
    for (const path of this.links.keys()) this.makeFolder(dirname(path), path);
    for (const [path, target] of this.links)
      this.onDisk(path, () => symlinkSync(target, join(this.folder, path)));
  }

  async file(raw: string, content: Readable, mode: number): Promise<void> {
    const path = this.place(raw);
    this.makeFolder(dirname(path), path);
    const count = async function* (this: Unpacking, source: AsyncIterable<Buffer>) {
      for await (const chunk of source) {
        this.bytes += chunk.length;
        if (this.bytes > this.limits.maxBytes) {
          throw InputError.of(
            'payload',
            `is over the limit of ${this.limits.maxBytes.toLocaleString('en-GB')} bytes unpacked`,
          );
        }
        yield chunk;
      }
    };
    const target = createWriteStream(join(this.folder, path), { flags: 'wx', mode: mode & 0o777 || 0o644 });
    await pipeline(content, count.bind(this), target).catch((error: unknown) => this.refuse(path, error));
    this.files++;
  }

  /** Passes a tar on, but no more of it than its files and headers may have; headers that repeat for ever end here. */
  async *boundHeaders(tar: AsyncIterable<Buffer>): AsyncGenerator<Buffer> {
    let left = this.limits.maxBytes + this.limits.maxEntries * HEADER_BYTES;
    for await (const piece of tar) {
      left -= piece.length;
      if (left < 0) throw InputError.of('payload', 'has more headers than any archive of its entries needs');
      yield piece;
    }
  }

  private makeFolder(folder: string, path: string): void {
    this.onDisk(path, () => mkdirSync(join(this.folder, folder), { recursive: true }));
  }

  private onDisk(path: string, write: () => unknown): void {
    try {
      write();
    } catch (error) {
      this.refuse(path, error);
    }
  }

  /** What the file system refuses is told of the entry, without where we keep it. */
  private refuse(path: string, error: unknown): never {
    const reason = systemReason(error);
    throw reason === undefined ? error : InputError.of('payload', reason, path);
  }

  private place(raw: string): string {
    if (++this.entries > this.limits.maxEntries) {
      throw InputError.of(
        'payload',
        `is over the limit of ${this.limits.maxEntries.toLocaleString('en-GB')} entries`,
      );
    }
    const path = safePath(raw);
    if (!path.ok) throw InputError.from('payload', path.error);
    return path.value;
  }
}

async function untar(archive: string, zipped: boolean, into: Unpacking): Promise<void> {
  const source = createReadStream(archive);
  const plain = zipped ? source.pipe(createGunzip()) : source;
  source.on('error', (error) => plain.destroy(error));
  try {
    for await (const part of readTar(into.boundHeaders(plain as AsyncIterable<Buffer>)))
      await tarEntry(part, into);
  } finally {
    source.destroy();
  }
}

async function tarEntry({ member, content }: TarPart, into: Unpacking): Promise<void> {
  const { path, kind, kindName, target, mode } = member;
  if (member.isSparse)
    throw InputError.of(
      'payload',
      'is a sparse file of the GNU kind; make the archive without --sparse',
      path,
    );
  switch (kind) {
    case 'file':
      return into.file(path, Readable.from(content), mode);
    case 'folder':
      return into.directory(path);
    case 'link':
      return into.link(path, target);
    case 'same':
      throw InputError.of('payload', 'is a hard link; make the archive with the files themselves', path);
    case 'other':
      throw InputError.of('payload', `is a ${kindName}; only files, folders and links are taken`, path);
  }
}

const FILE_TYPE = 0o170000;

async function unzip(archive: string, into: Unpacking): Promise<void> {
  const zip = await new Promise<yauzl.ZipFile>((done, fail) =>
    yauzl.open(archive, { lazyEntries: true, autoClose: true }, (error, file) =>
      error ? fail(error) : done(file),
    ),
  );
  await new Promise<void>((done, fail) => {
    zip.on('error', fail).on('end', done);
    zip.on('entry', (entry: yauzl.Entry) => {
      zipEntry(zip, entry, into).then(() => zip.readEntry(), fail);
    });
    zip.readEntry();
  }).finally(() => zip.close());
}

async function zipEntry(zip: yauzl.ZipFile, entry: yauzl.Entry, into: Unpacking): Promise<void> {
  const mode = entry.externalFileAttributes >>> 16;
  const type = mode & FILE_TYPE;
  if (entry.fileName.endsWith('/')) return into.directory(entry.fileName);
  const content = await new Promise<Readable>((done, fail) =>
    zip.openReadStream(entry, (error, stream) => (error ? fail(error) : done(stream))),
  );
  if (type === 0o120000) {
    return into.link(entry.fileName, await linkTarget(content, entry.fileName));
  }
  if (type !== 0 && type !== 0o100000) {
    throw InputError.of(
      'payload',
      'is a device or pipe; only files, folders and links are taken',
      entry.fileName,
    );
  }
  return into.file(entry.fileName, content, mode);
}

/** A ZIP keeps the target of a link as its content, which may claim any size. */
async function linkTarget(content: Readable, name: string): Promise<string> {
  const parts: Buffer[] = [];
  let bytes = 0;
  for await (const chunk of content) {
    bytes += (chunk as Buffer).length;
    if (bytes > MAX_PATH_BYTES)
      throw InputError.of('payload', `is a link whose target has over ${MAX_PATH_BYTES} bytes`, name);
    parts.push(chunk as Buffer);
  }
  return Buffer.concat(parts).toString('utf8');
}
