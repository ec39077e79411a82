/** Writes the tree of a container to a new folder. */
import {
  chmodSync,
  closeSync,
  existsSync,
  ftruncateSync,
  linkSync,
  mkdirSync,
  openSync,
  rmSync,
  symlinkSync,
  utimesSync,
  writeSync,
} from 'node:fs';
import { join, resolve } from 'node:path';
import { setImmediate as nextTurn } from 'node:timers/promises';
import { isZero } from '@vatline/core/container/bytes';
import { safePath } from '@vatline/core/container/safe-path';
import type { TreeEntry } from '@vatline/core/container/tree';
import { InputError } from './input-error.ts';
import { unfinished } from './unfinished.ts';
import { asInputError, openContainer, type OpenContainer } from './open-container.ts';

/**
 * Writes files, folders and links as they are. Throws `InputError` on paths that leave the folder,
 * which must not be there yet; nothing is left of it then.
 */
export async function unpackContainer(path: string, out: string): Promise<{ files: number; bytes: number }> {
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

/** Links are written last and nothing is below one, so that nothing is ever written through a link. */
async function writeTree(container: OpenContainer, root: string): Promise<{ files: number; bytes: number }> {
  const { entries } = container.tree;
  for (const entry of entries)
    if (entry.kind === 'folder') mkdirSync(join(root, entry.path), { recursive: true });
  let files = 0;
  let bytes = 0;
  let sinceTurn = 0;
  for await (const { entry, bytes: content } of container.contents()) {
    if (entry.sameAs !== undefined) continue;
    await writeFile(join(root, entry.path), entry, content);
    files++;
    bytes += entry.size;
    // Reading and writing stored blocks waits for nothing, and a signal would not be heard before the end.
    if ((sinceTurn += entry.size + ENTRY_COST) > BYTES_A_TURN) {
      sinceTurn = 0;
      await nextTurn();
    }
  }
  // The same file under another name stays one; where its first name lies elsewhere now, nothing is followed.
  for (const entry of entries)
    if (entry.sameAs !== undefined) {
      linkSync(join(root, entry.sameAs), join(root, entry.path));
      files++;
      bytes += entry.size;
    }
  for (const entry of entries)
    if (entry.kind === 'link') symlinkSync(entry.target ?? '', join(root, entry.path));
  for (const entry of [...entries].reverse())
    if (entry.kind === 'folder') {
      chmodSync(join(root, entry.path), entry.mode);
      utimesSync(join(root, entry.path), entry.modified, entry.modified);
    }
  return { files, bytes };
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
  chmodSync(path, entry.mode);
  utimesSync(path, entry.modified, entry.modified);
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
