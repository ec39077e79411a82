/** Writes the tree of a container to a new folder. */
import {
  chmodSync,
  closeSync,
  existsSync,
  ftruncateSync,
  lchownSync,
  linkSync,
  lutimesSync,
  mkdirSync,
  openSync,
  rmSync,
  symlinkSync,
  writeSync,
} from 'node:fs';
import { join, resolve } from 'node:path';
import { setImmediate as nextTurn } from 'node:timers/promises';
import { isZero } from '@vatline/core/container/bytes';
import { safePath } from '@vatline/core/container/safe-path';
import { lossOf, type Loss } from '@vatline/core/container/losses';
import type { Owner, TreeEntry } from '@vatline/core/container/tree';
import { setAttributes } from './extended-attributes.ts';
import { InputError } from './input-error.ts';
import { unfinished } from './unfinished.ts';
import { asInputError, openContainer, type OpenContainer } from './open-container.ts';

export interface Unpacked {
  readonly files: number;
  readonly bytes: number;
  /** What the container holds and the folder does not. */
  readonly notKept: readonly Loss[];
}

/**
 * Writes files, folders and links as they are. Throws `InputError` on paths that leave the folder,
 * which must not be there yet; nothing is left of it then.
 */
export async function unpackContainer(path: string, out: string): Promise<Unpacked> {
  const root = resolve(out);
  if (existsSync(root)) throw InputError.of(out, 'exists already; name a new folder');
  const container = await openContainer(path);
  const whole = unfinished(root);
  try {
    checkPaths(path, container.tree.entries);
    mkdirSync(root, { recursive: true });
    return await writeTree(container, root);
  } catch (error) {
    rmSync(root, { recursive: true, force: true });
    throw asInputError(path, error);
  } finally {
    whole();
    container.close();
  }
}

/** Written before others get a turn: some ten milliseconds; a file by itself costs as much as this many bytes. */
const BYTES_A_TURN = 8_000_000;
const ENTRY_COST = 50_000;

/**
 * Links are written last and nothing is below one, so that nothing is ever written through a link.
 * What belongs to files comes after all files are there, and to folders after all that is in them.
 */
async function writeTree(container: OpenContainer, root: string): Promise<Unpacked> {
  const { entries } = container.tree;
  const notKept = new NotKept();
  for (const entry of entries)
    if (entry.kind === 'folder') mkdirSync(join(root, entry.path), { recursive: true });
  await writeFiles(container, root, notKept);
  // The same file under another name stays one; where its first name lies elsewhere now, nothing is followed.
  for (const { path, sameAs } of entries)
    if (sameAs !== undefined) linkSync(join(root, sameAs), join(root, path));
  for (const entry of entries)
    if (entry.kind === 'link') {
      symlinkSync(entry.target ?? '', join(root, entry.path));
      giveBack(join(root, entry.path), entry, notKept);
    }
  for (const entry of [...entries].reverse())
    if (entry.kind === 'folder') giveBack(join(root, entry.path), entry, notKept);
  const files = entries.filter(({ kind }) => kind === 'file');
  return {
    files: files.length,
    bytes: files.reduce((sum, { size }) => sum + size, 0),
    notKept: notKept.losses(),
  };
}

async function writeFiles(container: OpenContainer, root: string, notKept: NotKept): Promise<void> {
  let sinceTurn = 0;
  for await (const { entry, bytes } of container.contents()) {
    if (entry.sameAs !== undefined) continue;
    await writeFile(join(root, entry.path), entry, bytes);
    giveBack(join(root, entry.path), entry, notKept);
    // Reading and writing stored blocks waits for nothing, and a signal would not be heard before the end.
    if ((sinceTurn += entry.size + ENTRY_COST) > BYTES_A_TURN) {
      sinceTurn = 0;
      await nextTurn();
    }
  }
}

/** What this system, or whoever unpacks, may not give to entries. */
class NotKept {
  private readonly paths: Record<'owners' | 'extended attributes', string[]> = {
    owners: [],
    'extended attributes': [],
  };

  add(kind: 'owners' | 'extended attributes', path: string): void {
    this.paths[kind].push(path);
  }

  losses(): Loss[] {
    return [
      ...lossOf('owners', this.paths.owners, 'whoever unpacks may not give files away'),
      ...lossOf('extended attributes', this.paths['extended attributes'], 'this system does not take them'),
    ];
  }
}

/** In this order: a change of owner takes away setuid bits and capabilities, any change the date. */
function giveBack(path: string, entry: TreeEntry, notKept: NotKept): void {
  const { owner, attributes, kind, mode } = entry;
  if (owner && !chown(path, owner)) notKept.add('owners', entry.path);
  if (kind !== 'link') chmodSync(path, mode);
  if (attributes && setAttributes(path, attributes).length > 0)
    notKept.add('extended attributes', entry.path);
  const date = dateText(entry);
  lutimesSync(path, date, date);
}

function chown(path: string, { user, group }: Owner): boolean {
  try {
    lchownSync(path, user, group);
    return true;
  } catch {
    return false;
  }
}

/**
 * Seconds with microseconds, all that Node passes on; as a text, since it takes a number below 0 for
 * now. Just behind the microsecond, which is cut off and not rounded.
 */
function dateText({ modified, nanos = 0 }: TreeEntry): string {
  if (nanos === 0) return String(modified);
  return String(modified + Math.floor(nanos / 1000) / 1e6 + (modified < 0 ? 0 : 2.5e-7));
}

/** Long runs of zeros are left as holes. */
async function writeFile(path: string, entry: TreeEntry, content: AsyncIterable<Uint8Array>): Promise<void> {
  const handle = openSync(path, 'wx', 0o600);
  try {
    let at = 0;
    for await (const piece of content) {
      if (piece.length < 65_536 || !isZero(piece))
        for (let done = 0; done < piece.length;)
          done += writeSync(handle, piece, done, piece.length - done, at + done);
      at += piece.length;
    }
    if (at !== entry.size)
      throw InputError.of(entry.path, `has ${at} bytes where the container says ${entry.size}`);
    ftruncateSync(handle, at);
  } finally {
    closeSync(handle);
  }
}

function checkPaths(container: string, entries: readonly TreeEntry[]): void {
  for (const { path } of entries) {
    const safe = safePath(path);
    if (!safe.ok || safe.value !== path)
      throw InputError.of(
        container,
        `holds a path that cannot be written: ${path}`,
        safe.ok ? '' : (safe.error[0]?.message ?? ''),
      );
  }
}
