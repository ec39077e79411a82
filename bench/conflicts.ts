/** Clashes of a whole library: 500 packages of 20,000 files each, a few of which clash. */
import type { Entry } from '@vatline/core/inventory/entry';
import { findConflicts, type ComparedPackage } from '@vatline/core/package/conflicts';

/** How many clashes are found, which must be those that were put there: one in ten packages has one. */
export function conflictsOfLibrary(packages: number, files: number): number {
  return findConflicts(Array.from({ length: packages }, (_none, i) => packageOf(i, files))).length;
}

function packageOf(number: number, files: number): ComparedPackage {
  return {
    id: String(number),
    name: `Package ${number}`,
    version: '1',
    sideBySide: false,
    entryPoints: [],
    dependencies: [],
    entries: () => entriesOf(number, files),
  };
}

function* entriesOf(number: number, files: number): Generator<Entry> {
  for (let i = 0; i < files; i++) {
    // Neighbours of every tenth package bring one file of the same name with other content.
    const isShared = i === 0 && number % 10 < 2;
    const path = isShared
      ? `Common files/part-${Math.floor(number / 10)}.dll`
      : `Program files/Package ${number}/part/${i}.dat`;
    const sha256 = isShared ? `content ${number}` : 'same';
    yield { kind: 'file', path, size: 1, sha256, mode: '', modified: '' };
  }
}

/** The peer: the names of as many files, sorted by the general tool. */
export function* pathsOfLibrary(packages: number, files: number): Generator<string> {
  for (let number = 0; number < packages; number++)
    for (const entry of entriesOf(number, files)) if (entry.kind === 'file') yield entry.path;
}
