/** Hashes files one after the other, without streams: for many small files that is fastest. */
import { createHash, hash as hashOnce } from 'node:crypto';
import { closeSync, fstatSync, openSync, readSync } from 'node:fs';
import { isMainThread, parentPort, workerData } from 'node:worker_threads';
import type { FileEntry } from '@vatline/core/inventory/entry';
import { systemReason } from './system-reason.ts';

export interface HashTask {
  readonly root: string;
  readonly paths: readonly string[];
}

/** What the worker found: the fields of each file side by side, cheap to hand over. */
export interface HashResult {
  readonly files: readonly FileEntry[];
  readonly unreadable: readonly { readonly path: string; readonly reason: string }[];
}

const BUFFER = 1 << 18;

export function hashFiles(task: HashTask): HashResult {
  const buffer = Buffer.allocUnsafe(BUFFER);
  const files: FileEntry[] = [];
  const unreadable: { path: string; reason: string }[] = [];
  for (const path of task.paths) {
    try {
      files.push(hashFile(task.root, path, buffer));
    } catch (error) {
      unreadable.push({ path, reason: reasonOf(error) });
    }
  }
  return { files, unreadable };
}

/** Why a file cannot be read. */
export function reasonOf(error: unknown): string {
  return systemReason(error) ?? (error instanceof Error ? error.message : String(error));
}

function hashFile(root: string, path: string, buffer: Buffer): FileEntry {
  const handle = openSync(`${root}/${path}`, 'r');
  try {
    const stat = fstatSync(handle);
    let size = readSync(handle, buffer);
    let sha256: string;
    if (size < BUFFER) sha256 = hashOnce('sha256', buffer.subarray(0, size), 'hex');
    else {
      const hash = createHash('sha256');
      hash.update(buffer);
      for (let n = readSync(handle, buffer); n > 0; n = readSync(handle, buffer)) {
        hash.update(buffer.subarray(0, n));
        size += n;
      }
      sha256 = hash.digest('hex');
    }
    return {
      kind: 'file',
      path,
      size,
      sha256,
      mode: (stat.mode & 0o7777).toString(8).padStart(4, '0'),
      modified: new Date(stat.mtimeMs).toISOString().replace('.000Z', 'Z'),
    };
  } finally {
    closeSync(handle);
  }
}

if (!isMainThread && parentPort && isHashTask(workerData)) parentPort.postMessage(hashFiles(workerData));

function isHashTask(data: unknown): data is HashTask {
  return typeof data === 'object' && data !== null && 'root' in data && 'paths' in data;
}
