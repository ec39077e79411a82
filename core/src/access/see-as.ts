/**
 * What a person gets and why: the desktops and apps, each with the chain of links that holds or
 * the first link that breaks. See `docs/models.md`, "Access".
 */
import { compareVersionText } from '../version/text.ts';

export interface Group {
  readonly name: string;
  /** Names of the people who are members directly. */
  readonly users: readonly string[];
  /** Names of the groups that are members. */
  readonly groups: readonly string[];
}

export interface PoolAccess {
  readonly id: string;
  readonly name: string;
  /** Package versions attached by the pool's current blend. */
  readonly attached: readonly AttachedPackage[];
  /** Groups assigned to the desktop. */
  readonly groupsOfDesktop: readonly string[];
  /** The packages that groups are assigned to on this pool. */
  readonly assigned: readonly AssignedPackage[];
}

export interface AssignedPackage {
  readonly packageId: string;
  readonly name: string;
  readonly groups: readonly string[];
}

/** What a person opens. */
export interface Entry {
  readonly id: string;
  readonly name: string;
}

export interface AttachedPackage {
  readonly packageId: string;
  readonly name: string;
  readonly version: string;
  readonly live: boolean;
  /** Whether several versions of the package may reach a person at once. */
  readonly sideBySide: boolean;
  readonly entryPoints: readonly Entry[];
}

export interface Link {
  readonly holds: boolean;
  readonly text: string;
}

export interface Grant {
  readonly kind: 'desktop' | 'app';
  readonly poolId: string;
  readonly pool: string;
  /** Of the pool for a desktop, of the package for an app. */
  readonly id: string;
  readonly name: string;
  readonly given: boolean;
  /** Left to right; nothing comes after the first that does not hold. */
  readonly chain: readonly Link[];
  /** What the person sees of it: entry points of an app. */
  readonly entryPoints: readonly Entry[];
}

export interface Membership {
  /** Group name to the path of group names that leads there from the person, nearest first. */
  readonly paths: ReadonlyMap<string, readonly string[]>;
  /** Groups that contain themselves, as chains. */
  readonly cycles: readonly (readonly string[])[];
}

/** Every group a person is in, directly or by nesting; a cycle is reported and not followed twice. */
export function memberships(user: string, groups: readonly Group[]): Membership {
  const direct = groups.filter(({ users }) => users.includes(user));
  return climb(
    direct.map(({ name }) => name),
    groups,
  );
}

/** Some groups and every group that they are in, directly or by nesting. */
export function climb(from: readonly string[], groups: readonly Group[]): Membership {
  const parents = new Map<string, string[]>();
  for (const group of groups) {
    for (const child of group.groups) {
      const list = parents.get(child);
      if (list) list.push(group.name);
      else parents.set(child, [group.name]);
    }
  }
  const paths = new Map<string, readonly string[]>();
  const cycles: string[][] = [];
  const queue = from.map((name) => [name]);
  for (let path = queue.shift(); path; path = queue.shift()) {
    const name = path[path.length - 1] as string;
    if (paths.has(name)) continue;
    paths.set(name, path);
    for (const parent of parents.get(name) ?? []) {
      if (path.includes(parent)) cycles.push([...path.slice(path.indexOf(parent)), parent]);
      else if (!paths.has(parent)) queue.push([...path, parent]);
    }
  }
  return { paths, cycles };
}

/** Everything a person gets or nearly gets, over all pools. */
export function seeAs(user: string, groups: readonly Group[], pools: readonly PoolAccess[]): Grant[] {
  const { paths } = memberships(user, groups);
  const via = (assigned: readonly string[]) => assigned.find((name) => paths.has(name));
  const grants: Grant[] = [];
  for (const pool of pools) {
    const desktop = desktopGrant(user, pool, paths, via(pool.groupsOfDesktop));
    if (desktop) grants.push(desktop);
    const person = { user, paths, via, hasDesktop: desktop?.given ?? false };
    for (const one of packagesOn(pool)) {
      const grant = appGrant(person, pool, one);
      if (grant) grants.push(grant);
    }
  }
  return grants;
}

type Paths = Membership['paths'];

/** Everything that is attached or assigned there, each once, by name. */
function packagesOn({ attached, assigned }: PoolAccess): AssignedPackage[] {
  const byId = new Map<string, AssignedPackage>();
  for (const { packageId, name } of attached) byId.set(packageId, { packageId, name, groups: [] });
  for (const one of assigned) byId.set(one.packageId, one);
  return [...byId.values()].sort((a, b) => (a.name < b.name ? -1 : 1));
}

function memberLink(user: string, paths: Paths, group: string): Link {
  const path = paths.get(group) ?? [];
  return { holds: true, text: `${user} is in ${path.join(', which is in ')}` };
}

function desktopGrant(
  user: string,
  pool: PoolAccess,
  paths: Paths,
  group: string | undefined,
): Grant | undefined {
  const { id, name } = pool;
  const base = { kind: 'desktop', poolId: id, pool: name, id, name, entryPoints: [] } as const;
  if (group !== undefined) {
    const assigned = { holds: true, text: `${group} is assigned to the desktop of ${pool.name}` };
    return { ...base, given: true, chain: [memberLink(user, paths, group), assigned] };
  }
  const [first] = pool.groupsOfDesktop;
  const text =
    first === undefined
      ? `no group is assigned to the desktop of ${pool.name}`
      : `${user} is in none of the groups assigned to the desktop of ${pool.name}: ${pool.groupsOfDesktop.join(', ')}`;
  return { ...base, given: false, chain: [{ holds: false, text }] };
}

interface Asking {
  readonly user: string;
  readonly paths: Paths;
  /** The first of some groups that the person is in. */
  via(groups: readonly string[]): string | undefined;
  /** On the pool that is looked at. */
  readonly hasDesktop: boolean;
}

function appGrant(
  { user, paths, via, hasDesktop: desktop }: Asking,
  pool: PoolAccess,
  { packageId, name, groups: assigned }: AssignedPackage,
): Grant | undefined {
  const group = via(assigned);
  // Someone with neither the desktop nor the assignment is not "nearly" getting this app.
  if (group === undefined && !desktop) return undefined;
  const chain: Link[] = [];
  const grant = (given: boolean, entryPoints: readonly Entry[] = []): Grant => ({
    kind: 'app',
    poolId: pool.id,
    pool: pool.name,
    id: packageId,
    name,
    given,
    chain,
    entryPoints,
  });
  if (group === undefined) {
    const text =
      assigned.length === 0
        ? `no group is assigned to ${name} on ${pool.name}`
        : `${user} is in none of the groups assigned to ${name} on ${pool.name}: ${assigned.join(', ')}`;
    chain.push({ holds: false, text });
    return grant(false);
  }
  chain.push(memberLink(user, paths, group));
  chain.push({ holds: true, text: `${group} is assigned to ${name} on ${pool.name}` });
  const versions = pool.attached.filter((attached) => attached.packageId === packageId);
  if (versions.length === 0) {
    chain.push({ holds: false, text: `the blend of ${pool.name} does not attach ${name}` });
    return grant(false);
  }
  const live = versions
    .filter((version) => version.live)
    .sort((a, b) => compareVersionText(b.version, a.version));
  const [newest] = live;
  if (!newest) {
    chain.push({ holds: false, text: `${name} ${versions[0]?.version ?? ''} is held` });
    return grant(false);
  }
  const given = newest.sideBySide ? live : [newest];
  chain.push({ holds: true, text: attachedText(name, pool.name, given, live) });
  if (!desktop) {
    chain.push({ holds: false, text: `${user} has no desktop on ${pool.name} to open it on` });
    return grant(false);
  }
  chain.push({ holds: true, text: `${user} has a desktop on ${pool.name}` });
  return grant(
    true,
    given.flatMap((version) => version.entryPoints),
  );
}

/** What reaches a person of the versions that are live on a pool, and what is left aside. */
function attachedText(
  name: string,
  pool: string,
  given: readonly AttachedPackage[],
  live: readonly AttachedPackage[],
): string {
  const versions = (list: readonly AttachedPackage[]) => list.map((one) => one.version).join(' and ');
  const aside = live.filter((one) => !given.includes(one));
  const verb = given.length > 1 ? 'are live side by side' : 'is live';
  const text = `${name} ${versions(given)} ${verb} and attached to ${pool}`;
  return aside.length === 0
    ? text
    : `${text}; ${versions(aside)} is attached too but not marked to run side by side, so the newest is given`;
}
