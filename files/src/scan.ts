/** Takes the inventory of a folder tree. Files are hashed by two worker threads. */
import { lstatSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';
import { Worker } from 'node:worker_threads';
import { compareBytes, type Entry } from '@vatline/core/inventory/entry';
import { childrenOf, NO_TEXT, type FolderChildren } from './folder-children.ts';
import { hashFiles, reasonOf, type HashResult, type HashTask } from './hash-files.ts';
import { InputError } from './input-error.ts';
import { linkTargetAt, NO_TEXT_TARGET } from './link-target.ts';

export interface Scan {
  /** Sorted as the format asks. */
  readonly entries: readonly Entry[];
  /** Paths that could not be read, with the reason. */
  readonly unreadable: readonly { readonly path: string; readonly reason: string }[];
}

const WORKERS = 2;
/** Below this many files a worker costs more than it saves. */
const SMALL = 400;

/** Scans a folder. Throws `InputError` when it is not one. */
export async function scanTree(folder: string): Promise<Scan> {
  const root = resolve(folder);
  if (!statSync(root, { throwIfNoEntry: false })?.isDirectory())
    throw InputError.of(folder, 'is not a folder');
  const files: string[] = [];
  const entries: Entry[] = [];
  const unreadable: { path: string; reason: string }[] = [];
  walk(root, '', files, entries, unreadable);
  const parts = await hashAll(root, files);
  for (const part of parts) {
    for (const file of part.files) entries.push(file);
    unreadable.push(...part.unreadable);
  }
  entries.sort((a, b) => compareBytes(a.kind, b.kind) || compareBytes(pathOf(a), pathOf(b)));
  unreadable.sort((a, b) => compareBytes(a.path, b.path));
  return { entries, unreadable };
}

function pathOf(entry: Entry): string {
  return 'path' in entry ? entry.path : '';
}

function walk(
  root: string,
  folder: string,
  files: string[],
  entries: Entry[],
  unreadable: { path: string; reason: string }[],
): void {
  let found: FolderChildren;
  try {
    found = childrenOf(folder === '' ? root : `${root}/${folder}`);
  } catch (error) {
    unreadable.push({ path: folder, reason: reasonOf(error) });
    return;
  }
  const pathOfChild = (name: string) => (folder === '' ? name : `${folder}/${name}`);
  for (const name of found.unnameable) unreadable.push({ path: pathOfChild(name), reason: NO_TEXT });
  for (const { name, entry: child } of found.children) {
    const path = pathOfChild(name);
    if (child.isFile()) files.push(path);
    else if (child.isDirectory()) {
      entries.push({ kind: 'folder', path });
      walk(root, path, files, entries, unreadable);
    } else if (child.isSymbolicLink()) {
      try {
        const target = linkTargetAt(join(root, path));
        if (target === undefined) unreadable.push({ path, reason: NO_TEXT_TARGET });
        else entries.push({ kind: 'link', path, target });
      } catch (error) {
        unreadable.push({ path, reason: reasonOf(error) });
      }
    } else
      unreadable.push({ path, reason: `is ${specialKind(join(root, path))}, not a file, folder or link` });
  }
}

function specialKind(path: string): string {
  const stat = lstatSync(path, { throwIfNoEntry: false });
  if (stat?.isSocket()) return 'a socket';
  if (stat?.isFIFO()) return 'a pipe';
  return 'a device';
}

async function hashAll(root: string, files: readonly string[]): Promise<HashResult[]> {
  if (files.length < SMALL) return [hashFiles({ root, paths: files })];
  const shares = Array.from({ length: WORKERS }, (_, w) => files.filter((_path, i) => i % WORKERS === w));
  const [own = [], ...others] = shares;
  const running = others.map((paths) => inWorker({ root, paths }));
  return [hashFiles({ root, paths: own }), ...(await Promise.all(running))];
}

function inWorker(task: HashTask): Promise<HashResult> {
  return new Promise((done, fail) => {
    // The built file, also when this runs from source: a worker thread loads JavaScript only.
    const worker = new Worker(new URL('../dist/hash-files.js', import.meta.url), {
      workerData: task,
      execArgv: [],
    });
    worker.once('message', done);
    worker.once('error', fail);
  });
}
