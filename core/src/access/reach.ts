/** What reaches the people of a group, or one person: pools whose desktop is theirs, and the packages that they may open there. */
import { climb, memberships, type Group, type PoolAccess } from './see-as.ts';

export interface Reach {
  readonly poolId: string;
  /** Whether the desktop of the pool is theirs; without it nothing else can be opened. */
  readonly hasDesktop: boolean;
  /** Packages that they are assigned to there, attached or not. */
  readonly packageIds: readonly string[];
  /** The groups by which it reaches them, from the nearest to the one that is assigned. */
  readonly through: readonly string[];
}

/** In the order of the pools; those that do not reach them are left out. */
export function reachOf(
  who: { readonly kind: 'group' | 'person'; readonly id: string },
  groups: readonly Group[],
  pools: readonly Pick<PoolAccess, 'id' | 'groupsOfDesktop' | 'assigned'>[],
): Reach[] {
  const { paths } = who.kind === 'person' ? memberships(who.id, groups) : climb([who.id], groups);
  const via = (assigned: readonly string[]) => assigned.find((name) => paths.has(name));
  return pools.flatMap(({ id, groupsOfDesktop, assigned }) => {
    const desktop = via(groupsOfDesktop);
    const own = assigned.filter((one) => via(one.groups) !== undefined);
    const group = desktop ?? via(own[0]?.groups ?? []);
    if (group === undefined) return [];
    const packageIds = own.map(({ packageId }) => packageId);
    return [{ poolId: id, hasDesktop: desktop !== undefined, packageIds, through: paths.get(group) ?? [] }];
  });
}
