/** Files that are there whole or not at all. */
import { closeSync, fsyncSync, mkdirSync, openSync, renameSync, rmSync, writeSync } from 'node:fs';
import { dirname } from 'node:path';
import { randomBytes } from 'node:crypto';
import { unfinished } from './unfinished.ts';

/** A name beside the final one, so that the rename stays on one file system. */
export function temporaryName(path: string): string {
  return `${path}.${randomBytes(6).toString('hex')}.part`;
}

/** Writes through a temporary name, syncs, renames; nothing is left behind when writing fails. */
export function writeAtomic(path: string, write: (append: (text: string | Buffer) => void) => void): void {
  mkdirSync(dirname(path), { recursive: true });
  const temporary = temporaryName(path);
  const whole = unfinished(temporary);
  const handle = openSync(temporary, 'wx');
  try {
    write((chunk) => void (typeof chunk === 'string' ? writeSync(handle, chunk) : writeSync(handle, chunk)));
    fsyncSync(handle);
    closeSync(handle);
    renameSync(temporary, path);
  } catch (error) {
    rmSync(temporary, { force: true });
    throw error;
  } finally {
    whole();
  }
}
