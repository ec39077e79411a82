/** How well files compress, measured on a few of each ending. */
import { closeSync, openSync, readSync } from 'node:fs';
import { deflateSync } from 'node:zlib';
import { endingOf, type RatioOf } from '@vatline/core/container/estimate';
import { realPathIn } from './inside.ts';

/** Of each file so much is looked at, in one block as containers have them. */
const SAMPLE_BYTES = 128 * 1024;
const FILES_AN_ENDING = 12;
const MOST_SAMPLED = 32_000_000;

/** Reads samples of the files, evenly over each ending; endings beyond the limit get the mean of all. */
export function sampleRatios(
  folder: string,
  files: readonly { readonly path: string; readonly size: number }[],
): RatioOf {
  const byEnding = new Map<string, { path: string; size: number }[]>();
  for (const file of files) {
    if (file.size === 0) continue;
    const list = byEnding.get(endingOf(file.path));
    if (list) list.push(file);
    else byEnding.set(endingOf(file.path), [file]);
  }
  const ratios = new Map<string, number>();
  let [sampled, plain, packed] = [0, 0, 0];
  for (const [ending, list] of byEnding) {
    if (sampled > MOST_SAMPLED) break;
    const [ownPlain, ownPacked] = sample(folder, spread(list, FILES_AN_ENDING));
    sampled += ownPlain;
    plain += ownPlain;
    packed += ownPacked;
    if (ownPlain > 0) ratios.set(ending, Math.min(1, ownPacked / ownPlain));
  }
  const mean = plain === 0 ? 1 : Math.min(1, packed / plain);
  return (path) => ratios.get(endingOf(path)) ?? mean;
}

/** So many of a list, evenly over it. */
function spread<T>(list: readonly T[], most: number): T[] {
  if (list.length <= most) return [...list];
  return Array.from({ length: most }, (_none, i) => list[Math.floor((i * list.length) / most)] as T);
}

function sample(folder: string, files: readonly { path: string; size: number }[]): [number, number] {
  let [plain, packed] = [0, 0];
  for (const { path, size } of files) {
    const real = realPathIn(folder, path);
    if (real === undefined) continue;
    const bytes = Buffer.alloc(Math.min(size, SAMPLE_BYTES));
    // From the middle: the beginnings of files are headers.
    const at = Math.max(0, Math.floor((size - bytes.length) / 2));
    const handle = openSync(real, 'r');
    try {
      readSync(handle, bytes, 0, bytes.length, at);
    } finally {
      closeSync(handle);
    }
    plain += bytes.length;
    packed += Math.min(bytes.length, deflateSync(bytes, { level: 6 }).length);
  }
  return [plain, packed];
}
