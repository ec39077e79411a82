/** Pools, their blends and hosts in the database. */
import type { Blend, Host, PoolDetail, PoolSummary } from '@vatline/contract/pool';
import { takesSessions, type HostState } from '@vatline/core/rollout/host-state';
import { fromJson } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { notFound } from '../platform/problem.ts';
import type { BlendRow, HostRow, PoolRow } from './tables.ts';

export interface HostCounts {
  readonly hosts: number;
  readonly taking: number;
  /** Failed, or held by a person. */
  readonly broken: number;
}

function countHosts(states: readonly (readonly [HostState, number])[]): HostCounts {
  const sum = (test: (state: HostState) => boolean) =>
    states.filter(([state]) => test(state)).reduce((total, [, n]) => total + n, 0);
  return {
    hosts: sum(() => true),
    taking: sum(takesSessions),
    broken: sum((state) => state === 'failed'),
  };
}

export class PoolStore {
  constructor(private readonly parts: Pick<Parts, 'db' | 'jobs' | 'estate'>) {}

  private get db() {
    return this.parts.db;
  }

  async pool(id: string): Promise<PoolRow> {
    const row = await this.db.selectFrom('pool').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such pool');
    return row;
  }

  hosts(poolId: string): Promise<HostRow[]> {
    return this.db.selectFrom('host').selectAll().where('pool_id', '=', poolId).orderBy('name').execute();
  }

  async host(id: string): Promise<HostRow> {
    const row = await this.db.selectFrom('host').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such host');
    return row;
  }

  async setHost(id: string, change: Partial<HostRow>): Promise<void> {
    await this.db.updateTable('host').set(change).where('id', '=', id).execute();
  }

  /** The hosts in service are to run what they run. */
  async wantNothingNew(poolId: string): Promise<void> {
    await this.db
      .updateTable('host')
      .set({ next_blend_id: null })
      .where('pool_id', '=', poolId)
      .where('state', '=', 'in service')
      .execute();
  }

  /** What the hosts of the pool are to run from now on. */
  async setBlend(poolId: string, blendId: string): Promise<void> {
    await this.db.updateTable('pool').set({ blend_id: blendId }).where('id', '=', poolId).execute();
  }

  blend(id: string): Promise<BlendRow> {
    return this.db.selectFrom('blend').selectAll().where('id', '=', id).executeTakeFirstOrThrow();
  }

  /** Makes the next blend of a pool. */
  async addBlend(
    poolId: string,
    imageVersionId: string,
    packageIds: readonly string[],
    at: number,
    id = newId('blend'),
  ): Promise<BlendRow> {
    const last = await this.db
      .selectFrom('blend')
      .select(({ fn }) => fn.max('number').as('n'))
      .where('pool_id', '=', poolId)
      .executeTakeFirst();
    const row: BlendRow = {
      id,
      pool_id: poolId,
      number: Number(last?.n ?? 0) + 1,
      image_version_id: imageVersionId,
      packages_json: JSON.stringify(packageIds),
      made_ms: at,
    };
    await this.db.insertInto('blend').values(row).execute();
    return row;
  }

  /** All blends as the API gives them, by id. */
  async blends(): Promise<Map<string, Blend>> {
    const rows = await this.db
      .selectFrom('blend')
      .innerJoin('image_version', 'image_version.id', 'blend.image_version_id')
      .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
      .select([
        'blend.id',
        'blend.number',
        'blend.image_version_id',
        'blend.packages_json',
        'blend.made_ms',
        'image_line.name as line',
        'image_version.number as imageNumber',
        'image_version.dye',
      ])
      .execute();
    const packages = await this.db
      .selectFrom('package_version')
      .innerJoin('package', 'package.id', 'package_version.package_id')
      .select(['package_version.id', 'package.name', 'package_version.version'])
      .execute();
    const byId = new Map(packages.map((row) => [row.id, row]));
    return new Map(
      rows.map((row) => [
        row.id,
        {
          id: row.id,
          number: row.number,
          imageVersionId: row.image_version_id,
          line: row.line,
          imageNumber: row.imageNumber,
          dye: row.dye,
          packages: fromJson<string[]>(row.packages_json).flatMap((id) => byId.get(id) ?? []),
          madeAt: row.made_ms,
        },
      ]),
    );
  }

  /** Some hosts, by id; as many as are asked for at once in a rollout. */
  async hostsById(ids: readonly string[]): Promise<Map<string, HostRow>> {
    const found = new Map<string, HostRow>();
    for (let i = 0; i < ids.length; i += 500) {
      const rows = await this.db
        .selectFrom('host')
        .selectAll()
        .where('id', 'in', ids.slice(i, i + 500))
        .execute();
      for (const row of rows) found.set(row.id, row);
    }
    return found;
  }

  /** How many hosts a pool has, take sessions, and are out of service for good until somebody acts. */
  async hostCounts(poolId: string): Promise<HostCounts> {
    const rows = await this.db
      .selectFrom('host')
      .select(({ fn }) => ['state', fn.countAll<number>().as('n')])
      .where('pool_id', '=', poolId)
      .groupBy('state')
      .execute();
    return countHosts(rows.map((row) => [row.state as HostState, row.n]));
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

  /** Sessions on every host of a pool now. */
  private sessions(pool: PoolRow, hosts: readonly HostRow[]): Promise<ReadonlyMap<string, number>> {
    const names = hosts.filter((host) => takesSessions(host.state)).map((host) => host.name);
    const counts = countHosts(hosts.map((host) => [host.state, 1]));
    return this.sessionsOn(pool, counts, names);
  }

  async summaries(): Promise<PoolSummary[]> {
    const pools = await this.db
      .selectFrom('pool')
      .selectAll()
      .orderBy('created_ms')
      .orderBy('name')
      .execute();
    const blends = await this.blends();
    return Promise.all(pools.map(async (pool) => this.summary(pool, await this.hosts(pool.id), blends)));
  }

  private async summary(
    pool: PoolRow,
    hosts: readonly HostRow[],
    blends: ReadonlyMap<string, Blend>,
  ): Promise<PoolSummary> {
    const sessions = await this.sessions(pool, hosts);
    const next = hosts.find((host) => host.next_blend_id !== null)?.next_blend_id;
    return {
      id: pool.id,
      name: pool.name,
      kind: pool.kind,
      clone: pool.clone,
      lineId: pool.line_id,
      hosts: hosts.length,
      inService: hosts.filter((host) => takesSessions(host.state)).length,
      sessions: [...sessions.values()].reduce((sum, n) => sum + n, 0),
      sessionLimit: pool.session_limit,
      blend: (pool.blend_id && blends.get(pool.blend_id)) || null,
      nextBlend: (next && blends.get(next)) || null,
      activeJob: await this.parts.jobs.activeOn(`pool:${pool.id}`),
    };
  }

  async detail(id: string): Promise<PoolDetail> {
    const pool = await this.pool(id);
    const hosts = await this.hosts(id);
    const blends = await this.blends();
    const own = await this.db
      .selectFrom('blend')
      .select('id')
      .where('pool_id', '=', id)
      .orderBy('number', 'desc')
      .execute();
    return {
      ...(await this.summary(pool, hosts, blends)),
      pattern: pool.pattern,
      ou: pool.ou,
      site: pool.site,
      datastore: pool.datastore,
      hostList: await this.presentHosts(pool, hosts, blends),
      blends: own.flatMap((row) => blends.get(row.id) ?? []),
      jobs: await this.parts.jobs.newest(`pool:${id}`, 10),
      expected: [...(await this.parts.estate.activity.expected(pool.name, hosts.length, pool.session_limit))],
    };
  }

  async presentHosts(
    pool: PoolRow,
    hosts: readonly HostRow[],
    blends: ReadonlyMap<string, Blend>,
  ): Promise<Host[]> {
    const sessions = await this.sessions(pool, hosts);
    return hosts.map((host) => {
      const blend = blends.get(host.blend_id);
      if (!blend) throw notFound('such blend');
      return {
        id: host.id,
        name: host.name,
        state: host.state,
        dye: blend.dye,
        blend: blend.number,
        nextDye: (host.next_blend_id && blends.get(host.next_blend_id)?.dye) || null,
        sessions: sessions.get(host.name) ?? 0,
        note: host.note,
      };
    });
  }
}
