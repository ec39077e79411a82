/** Hosts in the database, and the sessions on them now. */
import { isBroken, services, takesSessions, type HostStanding } from '@vatline/core/pool/service-state';
import { sql } from 'kysely';
import { fromJson, type Db } from '../platform/database.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import type { HostRow, PoolRow } from './tables.ts';

export interface HostCounts {
  readonly hosts: number;
  readonly taking: number;
  /** Out of service for good until somebody acts. */
  readonly broken: number;
  /** A blend that hosts of it are to run; null when they are to run what they run. */
  readonly next: string | null;
}

/** SQLite takes about 32,000 values in a statement. */
const AT_ONCE = 500;

/** Ten thousand rows as one text are read in half the time of ten thousand rows. */
type CellColumns = [
  HostRow['id'],
  HostRow['name'],
  HostRow['blend_id'],
  HostRow['next_blend_id'],
  HostRow['service'],
  HostRow['work'],
  HostRow['power'],
];

export type HostCell = Pick<
  HostRow,
  'id' | 'name' | 'blend_id' | 'next_blend_id' | 'service' | 'work' | 'power'
>;

export class HostStore {
  constructor(private readonly parts: Pick<Parts, 'db' | 'estate'>) {}

  private get db() {
    return this.parts.db;
  }

  async get(id: string): Promise<HostRow> {
    const row = await this.db.selectFrom('host').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such host');
    return row;
  }

  /** Those of a pool, by name. */
  of(poolId: string): Promise<HostRow[]> {
    return this.db.selectFrom('host').selectAll().where('pool_id', '=', poolId).orderBy('name').execute();
  }

  /** Those of a pool as cells need them, by name. */
  async cellsOf(poolId: string): Promise<HostCell[]> {
    const hosts = this.db.selectFrom('host').selectAll().where('pool_id', '=', poolId).orderBy('name');
    const { cells } = await this.db
      .selectFrom(hosts.as('ordered'))
      .select(
        sql<string>`json_group_array(json_array(id, name, blend_id, next_blend_id, service, work, power))`.as(
          'cells',
        ),
      )
      .executeTakeFirstOrThrow();
    return fromJson<CellColumns[]>(cells).map(
      ([id, name, blend_id, next_blend_id, service, work, power]) => ({
        id,
        name,
        blend_id,
        next_blend_id,
        service,
        work,
        power,
      }),
    );
  }

  /** Some hosts, by id; as many as are asked for at once in a rollout. */
  async byId(ids: readonly string[]): Promise<Map<string, HostRow>> {
    const found = new Map<string, HostRow>();
    for (let i = 0; i < ids.length; i += AT_ONCE) {
      const rows = await this.db
        .selectFrom('host')
        .selectAll()
        .where('id', 'in', ids.slice(i, i + AT_ONCE))
        .execute();
      for (const row of rows) found.set(row.id, row);
    }
    return found;
  }

  /** Whether people are sent to it the broker is told as well. */
  async set(id: string, change: Partial<HostRow>): Promise<void> {
    const { broker, clock } = this.parts.estate;
    const { power } = change;
    const since = sql<number>`coalesce(rests_since_ms, ${clock.now()})`;
    const row = await this.db
      .updateTable('host')
      .set({ ...change, ...(power === undefined ? {} : { rests_since_ms: power === 'on' ? null : since }) })
      .where('id', '=', id)
      .returning(['name', 'service'])
      .executeTakeFirst();
    if (row && change.service !== undefined) await broker.setTaking(id, [row.name], takesSessions(row));
  }

  /** The hosts in service are to run what they run. */
  async wantNothingNew(poolId: string): Promise<void> {
    await this.db
      .updateTable('host')
      .set({ next_blend_id: null })
      .where('pool_id', '=', poolId)
      .where((eb) =>
        eb.or([eb('service', '=', 'in service'), eb.and([eb('is_held', '=', 1), eb('work', '=', 'none')])]),
      )
      .execute();
  }

  /** How the hosts of each pool stand, or of one; by pool. */
  async countsByPool(poolId?: string): Promise<Map<string, HostCounts>> {
    let counted = this.db
      .selectFrom('host')
      .select(({ fn }) => [
        'pool_id',
        'service',
        'work',
        fn.countAll<number>().as('n'),
        fn.max('next_blend_id').as('next'),
      ])
      .groupBy(['pool_id', 'service', 'work']);
    if (poolId !== undefined) counted = counted.where('pool_id', '=', poolId);
    const rows = await counted.execute();
    const pools = [...new Set(rows.map((row) => row.pool_id))];
    return new Map(pools.map((pool) => [pool, countHosts(rows.filter((row) => row.pool_id === pool))]));
  }

  /** How the hosts of a pool stand. */
  async counts(poolId: string): Promise<HostCounts> {
    return (await this.countsByPool(poolId)).get(poolId) ?? noHosts;
  }

  /** How many stand on each of the pool's places. */
  async byPlace(poolId: string): Promise<ReadonlyMap<number, number>> {
    const rows = await this.db
      .selectFrom('host')
      .select(({ fn }) => ['place', fn.countAll<number>().as('n')])
      .where('pool_id', '=', poolId)
      .groupBy('place')
      .execute();
    return new Map(rows.map(({ place, n }) => [place, n]));
  }

  /** Sessions on all hosts of a pool now. */
  async sessionsOf(pool: PoolRow, counts: HostCounts): Promise<number> {
    if (counts.taking === 0) return 0;
    const { names } = await this.db
      .selectFrom('host')
      .select(sql<string>`json_group_array(name)`.as('names'))
      .where('pool_id', '=', pool.id)
      .where('service', 'in', taking)
      .executeTakeFirstOrThrow();
    const sessions = await this.sessionsOn(pool, counts, fromJson<string[]>(names));
    return [...sessions.values()].reduce((sum, n) => sum + n, 0);
  }

  /** Sessions now on some hosts of a pool, all of which take sessions. */
  sessionsOn(
    pool: PoolRow,
    { hosts, taking }: HostCounts,
    names: readonly string[],
  ): Promise<ReadonlyMap<string, number>> {
    return this.parts.estate.activity.sessions(
      { pool: pool.name, hosts, taking, limit: pool.session_limit },
      names,
    );
  }
}

/** How many hosts run each blend, counted in the index before anything is joined. */
export function hostsByBlend(db: Db) {
  return db
    .selectFrom('host')
    .select(({ fn }) => ['blend_id', fn.countAll<number>().as('hosts')])
    .groupBy('blend_id')
    .as('counted');
}

/** In which people can be given sessions. */
const taking = services.filter((service) => takesSessions({ service }));

export const noHosts: HostCounts = { hosts: 0, taking: 0, broken: 0, next: null };

interface Counted extends Pick<HostStanding, 'service' | 'work'> {
  readonly n: number;
  readonly next: string | null;
}

function countHosts(rows: readonly Counted[]): HostCounts {
  const sum = (test: (host: Counted) => boolean) => rows.filter(test).reduce((total, { n }) => total + n, 0);
  return {
    hosts: sum(() => true),
    taking: sum(takesSessions),
    broken: sum(isBroken),
    next: rows.find(({ next }) => next !== null)?.next ?? null,
  };
}
