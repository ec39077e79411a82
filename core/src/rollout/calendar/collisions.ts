/** Where planned things get in each other's way. */
import type { Instant } from '../../time/instant.ts';
import type { PlannedWork, StoreLimit } from './planned-work.ts';

export type Collision =
  /** A pool has one rollout at a time: the second waits until the first has ended. */
  | {
      readonly kind: 'one pool';
      readonly of: readonly [string, string];
      readonly at: Instant;
      readonly until: Instant;
    }
  /** Hosts that start together ask more of a datastore than it has left, or are more than a hypervisor makes at a time. */
  | {
      readonly kind: StoreLimit['kind'];
      readonly of: readonly string[];
      readonly at: Instant;
      readonly until: Instant;
      readonly store: string;
      readonly operations: number;
      readonly free: number;
    }
  /** It begins after a newer version is cut than the one it brings. */
  | { readonly kind: 'behind a cut'; readonly of: readonly [string, string]; readonly at: Instant }
  /** What follows a cut is not done before the next one. */
  | { readonly kind: 'next cut'; readonly of: readonly [string]; readonly at: Instant };

/**
 * Earliest first. Linear in what is planned but for sorting: of the rollouts of one pool each is held
 * against the one that ends last before it, so that one long rollout meets each of ten others once.
 */
export function collisionsIn(work: readonly PlannedWork[], stores: readonly StoreLimit[]): Collision[] {
  const wholes = wholesOf(work);
  const found: Collision[] = [
    ...onOnePool(wholes),
    ...onOneStore(work, stores),
    ...behindACut(wholes, work),
    ...notEnough(wholes),
  ];
  return found.sort((a, b) => a.at - b.at);
}

/** All windows of one thing together. */
interface Whole {
  readonly of: string;
  readonly first: PlannedWork;
  readonly start: Instant;
  readonly until: Instant;
  readonly isEnough: boolean;
}

function wholesOf(work: readonly PlannedWork[]): Whole[] {
  const wholes = new Map<string, Whole>();
  for (const one of work) {
    const known = wholes.get(one.of);
    wholes.set(one.of, {
      of: one.of,
      first: known && known.start <= one.start ? known.first : one,
      start: Math.min(known?.start ?? Infinity, one.start),
      until: Math.max(known?.until ?? -Infinity, one.worksUntil),
      isEnough: (known?.isEnough ?? true) && one.isEnough,
    });
  }
  return [...wholes.values()].sort((a, b) => a.start - b.start);
}

function onOnePool(wholes: readonly Whole[]): Collision[] {
  const last = new Map<string, Whole>();
  return wholes.flatMap((whole): Collision[] => {
    const { poolId } = whole.first;
    if (poolId === null) return [];
    const before = last.get(poolId);
    if (!before || whole.until > before.until) last.set(poolId, whole);
    if (!before || before.until <= whole.start || isSameWhole(before, whole)) return [];
    return [
      {
        kind: 'one pool',
        of: [before.of, whole.of],
        at: whole.start,
        until: Math.min(before.until, whole.until),
      },
    ];
  });
}

function isSameWhole({ first: { partOf } }: Whole, { first }: Whole): boolean {
  return partOf !== null && partOf === first.partOf;
}

interface Edge {
  readonly at: Instant;
  readonly operations: number;
  readonly of: string;
  /** Those of one rollout through rings are one. */
  readonly by: string;
  readonly begins: boolean;
}

function onOneStore(work: readonly PlannedWork[], stores: readonly StoreLimit[]): Collision[] {
  const edges = new Map<string, Edge[]>();
  for (const { of, partOf, start, worksUntil, loads } of work)
    for (const { store, operations } of loads) {
      if (worksUntil <= start) continue;
      const list = edges.get(store) ?? [];
      const edge = { operations, of, by: partOf ?? of };
      list.push({ ...edge, at: start, begins: true }, { ...edge, at: worksUntil, begins: false });
      edges.set(store, list);
    }
  return stores.flatMap((limit) => overloads(edges.get(limit.store) ?? [], limit));
}

/** Stretches in which two or more together ask for more than is left, each with its worst moment. */
function overloads(edges: readonly Edge[], { kind, store, free }: StoreLimit): Collision[] {
  const found: Collision[] = [];
  const now = new Map<string, { readonly operations: number; readonly by: string }>();
  let asked = 0;
  let over: { at: Instant; operations: number; of: Set<string> } | undefined;
  // Who ends makes room for who begins at the same moment.
  for (const edge of [...edges].sort((a, b) => a.at - b.at || Number(a.begins) - Number(b.begins))) {
    const change = edge.begins ? edge.operations : -edge.operations;
    const operations = (now.get(edge.of)?.operations ?? 0) + change;
    if (operations > 0) now.set(edge.of, { operations, by: edge.by });
    else now.delete(edge.of);
    asked += change;
    if (asked > free && new Set([...now.values()].map(({ by }) => by)).size > 1) {
      over ??= { at: edge.at, operations: 0, of: new Set() };
      over.operations = Math.max(over.operations, asked);
      for (const of of now.keys()) over.of.add(of);
    } else if (over) {
      found.push({ kind, ...over, of: [...over.of], until: edge.at, store, free });
      over = undefined;
    }
  }
  return found;
}

/** Of a rollout through rings that follows the very cut nothing is behind. */
function behindACut(wholes: readonly Whole[], work: readonly PlannedWork[]): Collision[] {
  const cuts = work.filter((one) => one.kind === 'cut');
  return wholes.flatMap(({ of, first, start }): Collision[] => {
    if (first.kind !== 'rollout' && first.kind !== 'ring') return [];
    const cut = cuts.find(({ lineId, start: at }) => lineId === first.lineId && at < start);
    return cut ? [{ kind: 'behind a cut', of: [cut.of, of], at: start }] : [];
  });
}

function notEnough(wholes: readonly Whole[]): Collision[] {
  return wholes.flatMap(({ of, start, isEnough }): Collision[] =>
    isEnough ? [] : [{ kind: 'next cut', of: [of], at: start }],
  );
}
