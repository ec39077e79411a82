/** What a format cannot keep of a tree: said before anybody misses it. */
import type { ContainerFormat } from './formats.ts';
import { keepsAttribute } from './squashfs/attribute-writer.ts';
import { NO_OWNER, type TreeEntry } from './tree.ts';

export type LossKind = 'permissions' | 'owners' | 'several names' | 'extended attributes' | 'dates';

/** Entries that lose something of one kind. */
export interface Loss {
  readonly kind: LossKind;
  /** What becomes of it, as the end of a sentence about the entries. */
  readonly becomes: string;
  readonly entries: number;
  /** The first few of them, in the tree's order. */
  readonly paths: readonly string[];
}

/** So many paths are named; the rest is counted. */
const MOST_PATHS = 5;

/** A disk's file system counts from 1980, in a field for 128 years; SquashFS in 32 bits. */
const FAT_YEARS = { from: Date.UTC(1980, 0, 1) / 1000, to: Date.UTC(2108, 0, 1) / 1000 };
const SQUASHFS_YEARS = { from: 0, to: 2 ** 32 };

type Judge = Readonly<Partial<Record<LossKind, readonly [(entry: TreeEntry) => boolean, string]>>>;

/**
 * What is lost when the entries are packed, by kind. That folders get the date of the newest file,
 * and that dates are rounded to what a format counts in, is so for every tree and no loss of this one.
 * With an `epoch` no date is lost, since all are replaced.
 */
export function lossesOf(
  format: ContainerFormat,
  entries: readonly TreeEntry[],
  epoch?: number,
): readonly Loss[] {
  return (Object.entries(judgeOf(format)) as [LossKind, readonly [(entry: TreeEntry) => boolean, string]][])
    .filter(([kind]) => kind !== 'dates' || epoch === undefined)
    .flatMap(([kind, [isLost, becomes]]) =>
      lossOf(
        kind,
        entries.filter(isLost).map(({ path }) => path),
        becomes,
      ),
    );
}

/** The loss of these entries; none when there are none. */
export function lossOf(kind: LossKind, paths: readonly string[], becomes: string): Loss[] {
  return paths.length === 0
    ? []
    : [{ kind, becomes, entries: paths.length, paths: paths.slice(0, MOST_PATHS) }];
}

/** One line for people. */
export function lossText({ kind, becomes, entries, paths }: Loss): string {
  const more = entries > paths.length ? ` and ${(entries - paths.length).toLocaleString('en-GB')} more` : '';
  const named = paths.map((path) => JSON.stringify(path)).join(', ');
  return `${kind} of ${named}${more}: ${becomes}`;
}

function judgeOf(format: ContainerFormat): Judge {
  switch (format) {
    case 'oci':
      return {
        'extended attributes': [lacksAttribute((name) => !name.includes('=')), 'a tar cannot name them'],
      };
    case 'squashfs':
      return {
        'extended attributes': [
          lacksAttribute(keepsAttribute),
          'SquashFS keeps those of user, trusted and security only',
        ],
        dates: [isOutside(SQUASHFS_YEARS), 'SquashFS counts from 1970 to 2106'],
      };
    default:
      return {
        permissions: [({ kind, mode }) => mode !== modeOnDisk(kind), 'a disk keeps none'],
        owners: [({ owner = NO_OWNER }) => owner.user !== 0 || owner.group !== 0, 'a disk keeps none'],
        'several names': [({ sameAs }) => sameAs !== undefined, 'a disk holds copies'],
        'extended attributes': [lacksAttribute(() => false), 'a disk keeps none'],
        dates: [isOutside(FAT_YEARS), 'a disk counts from 1980 to 2107'],
      };
  }
}

/** What is read back of a disk; an entry that has this loses nothing. */
export function modeOnDisk(kind: TreeEntry['kind']): number {
  return kind === 'folder' ? 0o755 : 0o644;
}

function lacksAttribute(keeps: (name: string) => boolean): (entry: TreeEntry) => boolean {
  return ({ attributes = [] }) => attributes.some(({ name }) => !keeps(name));
}

/** Folders get another date anyhow. */
function isOutside({ from, to }: { from: number; to: number }): (entry: TreeEntry) => boolean {
  return ({ kind, modified }) => kind !== 'folder' && (modified < from || modified >= to);
}
