/** What is needed of every pool to say what its hosts ask of the estate while they are made anew. */
import type { CloneKind } from '@vatline/core/pool/clone-storage';
import { startLoads } from '@vatline/core/pool/demand';
import type { StartLoad } from '@vatline/core/rollout/calendar/planned-work';
import type { Parts } from '../platform/parts.ts';
import type { PoolStore } from '../pool/pools.ts';

export interface PoolAtWork {
  readonly name: string;
  readonly clone: CloneKind;
  readonly hosts: number;
  /** What so many hosts that start together ask at most: all of them at each place, as far as it has so many. */
  loadsOf(batch: number): readonly StartLoad[];
}

/** A fixed number of questions, however many pools there are. */
export async function poolsAtWork({ db }: Parts, pools: PoolStore): Promise<Map<string, PoolAtWork>> {
  const rows = await pools.all();
  const places = await pools.placesOfSome(rows.map((row) => row.id));
  const counted = await db
    .selectFrom('host')
    .select(({ fn }) => ['pool_id', 'place', fn.countAll<number>().as('n')])
    .groupBy(['pool_id', 'place'])
    .execute();
  const hostsAt = new Map(counted.map(({ pool_id, place, n }) => [`${pool_id} ${place}`, n]));
  return new Map(
    rows.map(({ id, name, clone }) => {
      const own = (places.get(id) ?? []).map((place, i) => ({ place, n: hostsAt.get(`${id} ${i}`) ?? 0 }));
      return [
        id,
        {
          name,
          clone,
          hosts: own.reduce((sum, { n }) => sum + n, 0),
          loadsOf: (batch) =>
            own.flatMap(({ place, n }) => [
              { store: place.site, operations: Math.min(batch, n) },
              ...startLoads(clone, Math.min(batch, n), place)
                .filter(({ operations }) => operations > 0)
                .map(({ datastore, operations }) => ({ store: `${place.site}, ${datastore}`, operations })),
            ]),
        },
      ];
    }),
  );
}
