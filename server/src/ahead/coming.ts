/** Everything that is planned to change the hosts of pools, as changes of one pool each. */
import { MOST_DAYS } from '@vatline/contract/planned';
import type { ChangeAhead } from '@vatline/contract/ahead';
import type { ComingChange } from '@vatline/core/rollout/ahead';
import { wavesEnd, workAfterCut } from '@vatline/core/rollout/usual-work';
import { DAY, type Instant } from '@vatline/core/time/instant';
import { plannedWork, type PlannedStores } from '../planned/work.ts';
import type { Parts } from '../platform/parts.ts';
import { comparedContents } from '../rollout/blends/compared.ts';
import { RingContents } from '../rollout/rings/contents.ts';
import type { StagedPresenter } from '../rollout/rings/present.ts';
import type { StagedStore } from '../rollout/rings/staged-store.ts';

export interface AheadStores extends PlannedStores {
  readonly stagedPresenter: Pick<StagedPresenter, 'ahead' | 'get'>;
  readonly stagedStore: StagedStore;
}

export interface Coming extends ComingChange, Pick<ChangeAhead, 'kind' | 'title' | 'hosts' | 'waitsFor'> {
  readonly poolId: string;
  /** Where it can be looked at. */
  readonly link: string;
}

/** A pool has one rollout at a time. */
const MOST_ROLLOUTS = 2_000;

/** Until an instant, what is yet to be cut; without end, what has begun or waits for its ring. */
export async function comingChanges(parts: Parts, stores: AheadStores, until: Instant): Promise<Coming[]> {
  return [
    ...(await rolloutsUnderWay(parts, stores)),
    ...(await waitingRings(parts, stores)),
    ...(await afterCuts(parts, stores, until)),
    ...(await comingAgain(parts, stores, until)),
  ];
}

/** One that was stopped takes no more hosts. */
async function rolloutsUnderWay(parts: Parts, { rollouts, pools }: AheadStores): Promise<Coming[]> {
  const now = parts.estate.clock.now();
  const open = (await rollouts.between(now, now, MOST_ROLLOUTS)).filter(
    ({ endedAt, state }) => endedAt === null && state !== 'stopped',
  );
  const held = await pools.blends.contents(open.map(({ to }) => to.id));
  const contents = await comparedContents(
    parts,
    open.flatMap(({ to }) => held.get(to.id) ?? []),
  );
  const parted = await partsOfPools(
    parts,
    open.map(({ id }) => id),
  );
  return open.map((rollout, i) => {
    const { id, poolId, pool, hosts, done, atWork, startedAt, nextWindow, expectedAt, pausedAt } = rollout;
    const hasBegun = done + atWork > 0;
    return {
      of: id,
      kind: rollout.partOf ? 'ring' : 'rollout',
      poolId,
      title: rollout.partOf ? `${rollout.partOf.title}, ${rollout.partOf.ring}` : `rollout of ${pool}`,
      link: `/rollouts/${id}`,
      hosts,
      isWhole: !parted.has(id),
      begins: hasBegun ? Math.max(startedAt, rollout.windowsFrom) : (nextWindow?.start ?? null),
      done: expectedAt,
      waitsFor:
        pausedAt !== null
          ? 'it is paused'
          : nextWindow === null
            ? 'no window comes any more'
            : expectedAt === null
              ? 'it is not known when it is done'
              : '',
      to: contents[i] ?? null,
    };
  });
}

/** Of some rollouts those that are for some hosts of their pool only. */
async function partsOfPools({ db }: Parts, ids: readonly string[]): Promise<ReadonlySet<string>> {
  const rows = await db
    .selectFrom('rollout')
    .select('id')
    .where('id', 'in', ids)
    .where('is_part', '=', 1)
    .execute();
  return new Set(rows.map((row) => row.id));
}

/** Rings that have not begun, as they are expected now. */
async function waitingRings(parts: Parts, stores: AheadStores): Promise<Coming[]> {
  const found: Coming[] = [];
  for (const row of await stores.stagedStore.open()) {
    const staged = await stores.stagedPresenter.get(row.id);
    const given = await RingContents.open(parts, await stores.stagedStore.contentsOf(row));
    for (const ring of staged.rings) {
      if (ring.state !== 'waiting') continue;
      const pool = await stores.pools.pool(ring.planned.poolId);
      const [to = null] = await comparedContents(parts, [await given.of(pool, stores.pools)]);
      const opens = ring.expected?.opens.p50 ?? null;
      const window = opens === null ? undefined : ring.windows.find(({ end }) => end > opens);
      found.push({
        of: `${row.id}-${ring.number}`,
        kind: 'ring',
        poolId: pool.id,
        title: `${staged.title}, ${ring.planned.name}`,
        link: `/rollouts/staged/${row.id}`,
        hosts: ring.hosts,
        isWhole: ring.planned.take.by === 'rest',
        begins: window && opens !== null ? Math.max(opens, window.start) : null,
        done: ring.expected?.finish.p90 ?? null,
        waitsFor: ring.expected ? '' : waitsFor(staged),
        to,
      });
    }
  }
  return found;
}

function waitsFor({ state, heldWhy }: { readonly state: string; readonly heldWhy: string }): string {
  if (state === 'held') return `it is held at a gate: ${heldWhy}`;
  return 'the ring before it is paused, or cannot be forecast';
}

/** Rollouts that come again and bring another version; hosts that are made anew stay what they are. */
async function comingAgain(
  parts: Parts,
  { recurring, pools }: AheadStores,
  until: Instant,
): Promise<Coming[]> {
  const found: Coming[] = [];
  for (const { poolId, takes, plan, window, brings } of await recurring.ahead(until)) {
    if (takes === 'made anew' || !brings) continue;
    const pool = await pools.pool(poolId);
    const packageVersionIds = await pools.blends.packageIdsOf(pool.blend_id ?? '');
    const [to = null] = await comparedContents(parts, [{ imageVersionId: brings.id, packageVersionIds }]);
    const { hosts } = await pools.hosts.counts(poolId);
    const end = wavesEnd(window.start, workAfterCut({ clone: pool.clone, hosts }, plan.batch));
    found.push({
      of: `again-${poolId}`,
      kind: 'rollout',
      poolId,
      title: `the rollout of ${pool.name} that comes again`,
      link: `/rollouts/new?pool=${poolId}`,
      hosts,
      isWhole: true,
      begins: window.start,
      done: end <= window.end ? end : null,
      waitsFor: end <= window.end ? '' : 'it takes more than its first window',
      to,
    });
  }
  return found;
}

/** What schedules bring once they have cut it: which version that is, nobody knows. */
async function afterCuts(parts: Parts, stores: AheadStores, until: Instant): Promise<Coming[]> {
  const now = parts.estate.clock.now();
  const to = Math.min(until, now + MOST_DAYS * DAY);
  const names = new Map((await stores.images.lines.all()).map(({ id, name }) => [id, name]));
  const windows = (await plannedWork(parts, stores, now, to)).filter(({ kind }) => kind === 'after a cut');
  const wholes = new Map<string, Coming>();
  for (const { of, poolId, lineId, start, worksUntil, isEnough, hosts, to: link } of windows) {
    const known = wholes.get(of);
    wholes.set(of, {
      of,
      kind: 'after a cut',
      poolId: poolId ?? '',
      title: `the next cut of ${names.get(lineId ?? '') ?? ''}`,
      link,
      hosts: hosts ?? 0,
      isWhole: true,
      begins: known?.begins ?? start,
      done: isEnough ? worksUntil : null,
      waitsFor: isEnough ? '' : 'the cut after it comes before it is done',
      to: null,
    });
  }
  return [...wholes.values()];
}
