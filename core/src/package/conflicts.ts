/**
 * What clashes between packages that are attached together. Entries are joined by a hash of their
 * key, so that ten million of them fit: the first pass keeps a number for each, and only keys that
 * come twice are looked at again.
 */
import { entryKey, entryName, valueFields, type Entry } from '../inventory/entry.ts';
import type { Dependency, EntryPoint } from '../container/manifest.ts';
import { versionRange } from '../version/range.ts';

export interface ComparedPackage {
  readonly id: string;
  readonly name: string;
  readonly version: string;
  /** Whether other versions of it may be there at the same time. */
  readonly sideBySide: boolean;
  readonly entryPoints: readonly EntryPoint[];
  readonly dependencies: readonly Dependency[];
  /** What it brings, in one order; walked again when something of it may clash. */
  readonly entries: () => Iterable<Entry>;
}

export const clashKinds = [
  'file',
  'setting',
  'service',
  'entry point',
  'file association',
  'protocol',
  'dependency',
  'two versions',
] as const;
export type ClashKind = (typeof clashKinds)[number];

export interface Clash {
  readonly kind: ClashKind;
  /** The path, value, name or dependency it is about. */
  readonly what: string;
  /** Ids of the packages. */
  readonly packages: readonly string[];
  readonly advice: string;
}

const kinds: Partial<Record<Entry['kind'], ClashKind>> = {
  file: 'file',
  registry: 'setting',
  service: 'service',
};

/** All clashes between these packages, gravest kinds first. */
export function findConflicts(packages: readonly ComparedPackage[]): Clash[] {
  return [
    ...missingDependencies(packages),
    ...twoVersions(packages),
    ...entryClashes(packages),
    ...named(packages, 'entry point', (entry) => [entry.name]),
    ...named(packages, 'file association', (entry) => entry.associations ?? []),
    ...named(packages, 'protocol', (entry) => entry.protocols ?? []),
  ];
}

function missingDependencies(packages: readonly ComparedPackage[]): Clash[] {
  return packages.flatMap((own) =>
    own.dependencies.flatMap((wanted): Clash[] => {
      const range = versionRange(wanted.range);
      const there = packages.filter((other) => other.name === wanted.name);
      if (range.ok && there.some((other) => range.value(other.version))) return [];
      const has = there.map((other) => other.version).join(', ');
      return [
        {
          kind: 'dependency',
          what: `${wanted.name} ${wanted.range}`,
          packages: [own.id, ...there.map((other) => other.id)],
          advice: has
            ? `${own.name} needs ${wanted.name} ${wanted.range}; ${has} is there. Attach a version that will do.`
            : `${own.name} needs ${wanted.name} ${wanted.range}, which is not there. Attach it too.`,
        },
      ];
    }),
  );
}

function twoVersions(packages: readonly ComparedPackage[]): Clash[] {
  return grouped(packages, (one) => [one.name]).flatMap(([name, same]): Clash[] =>
    same.length > 1 && !same.every((one) => one.sideBySide)
      ? [
          {
            kind: 'two versions',
            what: name,
            packages: same.map((one) => one.id),
            advice: `${same.map((one) => one.version).join(' and ')} are not marked to run side by side. Keep one, or mark them.`,
          },
        ]
      : [],
  );
}

function named(
  packages: readonly ComparedPackage[],
  kind: ClashKind,
  namesOf: (entry: EntryPoint) => readonly string[],
): Clash[] {
  const all = (one: ComparedPackage) => [...new Set(one.entryPoints.flatMap(namesOf))];
  return grouped(packages, all).flatMap(([what, same]): Clash[] => {
    // Versions of one package that run side by side share their names on purpose.
    if (new Set(same.map((one) => one.name)).size < 2) return [];
    const who = same.map((one) => one.name).join(' and ');
    const advice =
      kind === 'entry point'
        ? `${who} both show “${what}”. Rename one of them.`
        : `${who} both open ${what}. Say in one of them that it does not.`;
    return [{ kind, what, packages: same.map((one) => one.id), advice }];
  });
}

function grouped(
  packages: readonly ComparedPackage[],
  keysOf: (one: ComparedPackage) => readonly string[],
): [string, ComparedPackage[]][] {
  const groups = new Map<string, ComparedPackage[]>();
  for (const one of packages)
    for (const key of keysOf(one)) {
      const list = groups.get(key);
      if (list) list.push(one);
      else groups.set(key, [one]);
    }
  return [...groups].filter(([, list]) => list.length > 1);
}

interface Holder {
  readonly owner: ComparedPackage;
  readonly value: string;
  readonly entry: Entry;
}

function entryClashes(packages: readonly ComparedPackage[]): Clash[] {
  const hashes = hashEntries(packages);
  const repeated = repeatedIn(hashes);
  const holders = new Map<string, Holder[]>();
  for (const [i, owner] of packages.entries()) {
    const own = hashes[i] ?? new Float64Array();
    // Most packages share nothing with any other, and are not walked again.
    if (!holdsAny(own, repeated)) continue;
    let number = 0;
    for (const entry of owner.entries()) {
      if (!kinds[entry.kind] || !repeated.has(own[number++] ?? -1)) continue;
      const key = `${entry.kind}\0${entryKey(entry).toLowerCase()}`;
      const list = holders.get(key);
      const holder = { owner, value: valueOf(entry), entry };
      if (list) list.push(holder);
      else holders.set(key, [holder]);
    }
  }
  return [...holders.values()].flatMap(clashOf);
}

function holdsAny(hashes: Float64Array, wanted: ReadonlySet<number>): boolean {
  if (wanted.size === 0) return false;
  // A look at a few bits spares most looks into the set, which are dear for numbers of this size.
  const marks = new Uint8Array(1 << 16);
  for (const hash of wanted) marks[hash % 65_536] = 1;
  for (const hash of hashes) if (marks[hash % 65_536] === 1 && wanted.has(hash)) return true;
  return false;
}

/** Versions side by side differ in their own files on purpose, so only different packages clash. */
function clashOf(list: readonly Holder[]): Clash[] {
  const [first] = list;
  const differ = new Set(list.map((holder) => holder.value)).size > 1;
  const owners = [...new Set(list.map((holder) => holder.owner))];
  if (!first || !differ || new Set(owners.map((one) => one.name)).size < 2) return [];
  const { kind } = first.entry;
  const who = owners.map((one) => one.name).join(' and ');
  const advice =
    kind === 'file'
      ? `${who} bring different files of this name. Leave it out of one, or keep them on different pools.`
      : kind === 'registry'
        ? `${who} set it differently; the one attached last wins. Leave it out of one.`
        : `${who} both have this service. Only one of them can run.`;
  return [
    {
      kind: kinds[kind] ?? 'file',
      what: entryName(first.entry),
      packages: owners.map((one) => one.id),
      advice,
    },
  ];
}

function valueOf(entry: Entry): string {
  if (entry.kind === 'file') return entry.sha256;
  const record = entry as unknown as Record<string, unknown>;
  return valueFields(entry.kind)
    .map((field) => String(record[field]))
    .join('\0');
}

/** The hashes of what can clash, package by package, in the order of their entries. */
function hashEntries(packages: readonly ComparedPackage[]): Float64Array[] {
  let held = new Float64Array(1 << 12);
  return packages.map((one) => {
    let count = 0;
    for (const entry of one.entries()) {
      if (!kinds[entry.kind]) continue;
      if (count === held.length) {
        const larger = new Float64Array(held.length * 2);
        larger.set(held);
        held = larger;
      }
      held[count++] = keyHash(entry);
    }
    return held.slice(0, count);
  });
}

const BITS = 2 ** 27;

/**
 * Hashes that more than one entry has. Two bit maps, each hash at one of 134 million places, leave
 * only the few that share a place with another to be sorted.
 */
function repeatedIn(hashes: readonly Float64Array[]): Set<number> {
  const once = new Uint8Array(BITS / 8);
  const again = new Uint8Array(BITS / 8);
  for (const own of hashes)
    for (const hash of own) {
      const place = hash & (BITS - 1);
      const bit = 1 << (place & 7);
      const taken = (once[place >>> 3] ?? 0) & bit;
      if (taken) again[place >>> 3] = (again[place >>> 3] ?? 0) | bit;
      else once[place >>> 3] = (once[place >>> 3] ?? 0) | bit;
    }
  const isShared = (hash: number) => {
    const place = hash & (BITS - 1);
    return ((again[place >>> 3] ?? 0) & (1 << (place & 7))) !== 0;
  };
  const sharing: number[] = [];
  for (const own of hashes) for (const hash of own) if (isShared(hash)) sharing.push(hash);
  const sorted = Float64Array.from(sharing).sort();
  const repeated = new Set<number>();
  for (let i = 1; i < sorted.length; i++) if (sorted[i] === sorted[i - 1]) repeated.add(sorted[i] ?? 0);
  return repeated;
}

/**
 * 52 bits of two multiplicative hashes over the key, two letters at a time, without regard to case;
 * what collides is told apart later.
 */
function keyHash(entry: Entry): number {
  const key = entryKey(entry);
  const even = key.length & ~1;
  let high = entry.kind.length;
  let low = 0x811c9dc5 | 0;
  for (let i = 0; i < even; i += 2) {
    const first = key.charCodeAt(i);
    const second = key.charCodeAt(i + 1);
    const plain = (first | second) < 128;
    // Of ASCII some marks share their number with another, which only costs a closer look.
    const pair = plain ? first | 32 | ((second | 32) << 16) : folded(key, i) | (folded(key, i + 1) << 16);
    low = Math.imul(low ^ pair, 0x01000193);
    low ^= low >>> 15;
    // Kept to whole numbers of 32 bits, which is what makes it quick.
    high = (Math.imul(high ^ pair, 0x5bd1e995) + 0x1e3779b9) | 0;
    high ^= high >>> 13;
  }
  if (even < key.length) {
    low = Math.imul(low ^ folded(key, even), 0x01000193);
    high = Math.imul(high ^ folded(key, even), 0x5bd1e995);
  }
  return (high >>> 12) * 2 ** 32 + (low >>> 0);
}

/** One number for a letter in either case. */
function folded(key: string, at: number): number {
  const unit = key.charCodeAt(at);
  return unit < 128 ? unit | 32 : (key[at]?.toLowerCase().charCodeAt(0) ?? unit);
}
