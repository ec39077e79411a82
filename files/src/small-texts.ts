/** Keeps small text files as they were, so that what an installer changed in them can be read. */
import { copyFileSync, existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Entry } from '@vatline/core/inventory/entry';
import { realPathIn } from './inside.ts';

/** Larger files are not kept. */
const MOST_BYTES = 65_536;
/** All together. */
const MOST_KEPT = 50_000_000;

/** Copies the small texts among entries; enough for settings files, not for the disk twice. */
export function keepSmallTexts(folder: string, entries: Iterable<Entry>, into: string): void {
  rmSync(into, { recursive: true, force: true });
  let left = MOST_KEPT;
  for (const entry of entries) {
    if (entry.kind !== 'file' || entry.size > MOST_BYTES || entry.size > left) continue;
    const path = realPathIn(folder, entry.path);
    if (path === undefined || smallText(path) === undefined) continue;
    const target = join(into, entry.path);
    mkdirSync(dirname(target), { recursive: true });
    copyFileSync(path, target);
    left -= entry.size;
  }
}

/** Throws away the kept texts that did not change. */
export function forgetUnchanged(kept: string, changed: ReadonlySet<string>): void {
  if (!existsSync(kept)) return;
  for (const child of readdirSync(kept, { recursive: true, withFileTypes: true })) {
    if (!child.isFile()) continue;
    const path = join(child.parentPath, child.name);
    if (!changed.has(path.slice(kept.length + 1))) rmSync(path);
  }
}

/** The text of a file, or nothing: it is not there, large, or no text. */
function smallText(path: string): string | undefined {
  const stat = statSync(path, { throwIfNoEntry: false });
  if (!stat?.isFile() || stat.size > MOST_BYTES) return undefined;
  const bytes = readFileSync(path);
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return bytes.subarray(2).toString('utf16le');
  if (bytes.includes(0)) return undefined;
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return undefined;
  }
}

/** The same, of a path given from outside; nothing for one that leaves the folder, by its parts or by a link. */
export function smallTextIn(folder: string, path: string): string | undefined {
  const real = realPathIn(folder, path);
  return real === undefined ? undefined : smallText(real);
}
