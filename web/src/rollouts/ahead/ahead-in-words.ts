/** What will be another on a date, as people ask for it. */
import type { Ahead, ChangeAhead, PackageAhead, PoolAhead } from '@vatline/contract/ahead';
import { moment } from '../../parts/format.ts';

/** How a pool is at the instant that is asked for: for those whom it is about, not for everybody on it. */
export type PoolThen = 'changed' | 'under way' | 'the same';

type Difference = NonNullable<PoolAhead['difference']>;

/** Of what was compared; what is yet to be cut is another for sure. */
function touches(difference: Difference | null): boolean {
  return difference === null || difference.image !== null || difference.packages.length > 0;
}

export function poolThen({ changes, difference }: Pick<PoolAhead, 'changes' | 'difference'>): PoolThen {
  const begun = changes.filter(({ standing, difference: own }) => standing !== 'later' && touches(own));
  // A share of the hosts is as good as under way.
  if (begun.some(({ standing, isWhole }) => standing === 'under way' || !isWhole)) return 'under way';
  return begun.length > 0 && touches(difference) ? 'changed' : 'the same';
}

export function aheadInWords({ of, name, at, pools }: Ahead, zone: string): string {
  const on = `On ${moment(at, zone)}`;
  const [first] = pools;
  if (!first) return `No pool is ${name}’s to use, so nothing changes for ${of === 'group' ? 'it' : 'them'}.`;
  if (of === 'pool') return onePool(on, first);
  const changed = pools.filter((pool) => poolThen(pool) === 'changed').map(({ pool }) => pool);
  const underWay = pools.filter((pool) => poolThen(pool) === 'under way').map(({ pool }) => pool);
  const theirs = pools.length === 1 ? `the one pool of ${name}` : `the ${pools.length} pools of ${name}`;
  if (changed.length + underWay.length === 0) return `${on} nothing has changed on ${theirs}.`;
  const parts = [
    ...(changed.length > 0 ? [`${changed.join(', ')} ${changed.length === 1 ? 'has' : 'have'} changed`] : []),
    ...(underWay.length > 0
      ? [`${underWay.join(', ')} ${underWay.length === 1 ? 'is' : 'are'} being changed`]
      : []),
  ];
  return `${on}, of ${theirs}, ${parts.join(' and ')}.`;
}

function onePool(on: string, pool: PoolAhead): string {
  switch (poolThen(pool)) {
    case 'under way':
      return `${on} ${pool.pool} is being changed; not all of its hosts are the same.`;
    case 'changed':
      return pool.difference === null
        ? `${on} ${pool.pool} runs a version that is yet to be cut.`
        : `${on} ${pool.pool} has changed: ${pool.difference.headline}.`;
    default:
      return pool.changes.length === 0
        ? `Nothing is planned that changes ${pool.pool}.`
        : `${on} ${pool.pool} is as it is now; what is planned comes later.`;
  }
}

/** When a change begins and is done. */
export function whenInWords({ begins, done, waitsFor }: ChangeAhead, zone: string): string {
  if (begins === null) return waitsFor === '' ? 'nobody knows when' : waitsFor;
  const from = `from ${moment(begins, zone)}`;
  return done === null ? `${from}; ${waitsFor}` : `${from}, done by ${moment(done, zone)} (9 in 10)`;
}

export function packageInWords({ change, name, from, to }: PackageAhead): string {
  if (change === 'added') return `${name} ${to ?? ''} comes`;
  if (change === 'removed') return `${name} ${from ?? ''} goes`;
  return `${name} ${from ?? ''} to ${to ?? ''}`;
}
