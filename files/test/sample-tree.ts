/** A tree with everything that containers find hard. */
import { chmodSync, mkdirSync, symlinkSync, truncateSync, utimesSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

/** Files in it. */
export const SAMPLE_FILES = 607;

/**
 * 607 files: duplicates, empty ones, a path of over 300 characters, names in other scripts, one
 * larger than a block with a hole in it, one of exactly a block; empty folders. Links where asked.
 */
export function makeSampleTree(root: string, links: boolean): void {
  for (let i = 0; i < 600; i++) {
    const folder = join(root, `part-${i % 7}`, i % 3 === 0 ? 'deep/er' : 'flat');
    mkdirSync(folder, { recursive: true });
    writeFileSync(join(folder, `file-${i}.txt`), `line ${i % 50}\n`.repeat(i));
  }
  const long = join(root, 'long'.repeat(30), 'path'.repeat(30), 'way'.repeat(30));
  mkdirSync(long, { recursive: true });
  writeFileSync(join(long, 'béal átha.txt'), 'x');
  // The general tools for FAT do not write names beyond the basic plane.
  writeFileSync(join(root, links ? 'Ωμέγα 図書 📚.txt' : 'Ωμέγα 図書.txt'), 'other scripts');
  writeFileSync(join(root, 'large.bin'), Buffer.alloc(3_000_000, 'abcdefg'));
  writeFileSync(join(root, 'large-copy.bin'), Buffer.alloc(3_000_000, 'abcdefg'));
  writeFileSync(join(root, 'holed.bin'), Buffer.from('begin'));
  truncateSync(join(root, 'holed.bin'), 1_000_001);
  writeFileSync(join(root, 'block.bin'), Buffer.alloc(131_072, 7));
  writeFileSync(join(root, 'run.sh'), '#!/bin/sh\n');
  chmodSync(join(root, 'run.sh'), 0o755);
  if (links) symlinkSync('run.sh', join(root, 'start'));
  mkdirSync(join(root, 'hollow'));
  utimesSync(join(root, 'run.sh'), 1_800_000_000, 1_800_000_000);
}
