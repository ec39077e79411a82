/** An estate with a pool of as many hosts as wanted, on a version that is not the newest of its line. */
import { poolSettingsSchema } from '@vatline/contract/pool/kinds';
import { planNames } from '@vatline/core/pool/names';
import { must } from '@vatline/core/result';
import type { Application } from '@vatline/server/application';
import { newId } from '@vatline/server/platform/ids';

export interface LargePool {
  readonly poolId: string;
  /** The version its hosts do not run yet. */
  readonly newestId: string;
}

/** Adds the pool to an application that holds the demo. */
export async function addLargePool(
  { db, estate }: Application,
  name: string,
  count: number,
): Promise<LargePool> {
  const [newest, older] = await db
    .selectFrom('image_version')
    .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
    .select(['image_version.id', 'image_version.image_id', 'image_version.line_id'])
    .where('image_line.name', '=', 'Staff multi-session')
    .orderBy('image_version.number', 'desc')
    .limit(2)
    .execute();
  if (!newest || !older) throw new Error('the demo has no Staff line with two versions');
  const poolId = newId('pool');
  const place = { site: 'yard-a', network: 'desks', datastore: 'standard' };
  const size = { processors: 2, memoryBytes: 8e9, graphics: 0 };
  const ou = 'OU=Desks,OU=Hosts,DC=wrenfield,DC=example';
  const disks = {
    kind: 'linked',
    datastore: place.datastore,
    parentDatastore: place.datastore,
    data: null,
    returnsToClean: false,
  } as const;
  const pool = {
    name,
    kind: 'pooled' as const,
    clone: 'linked' as const,
    pattern: 'WCL-X-######',
    ou,
  };
  await db
    .insertInto('pool')
    .values({
      ...pool,
      id: poolId,
      line_id: older.line_id,
      processors: size.processors,
      memory_bytes: size.memoryBytes,
      graphics: size.graphics,
      settings_json: JSON.stringify(poolSettingsSchema.parse({ size: 'desk-2' })),
      session_limit: 10,
      blend_id: null,
      created_ms: estate.clock.now(),
    })
    .execute();
  await db
    .insertInto('pool_place')
    .values({ pool_id: poolId, place: 0, site: place.site, network: place.network, at_most: null })
    .execute();
  await db
    .insertInto('pool_placement')
    .values({ pool_id: poolId, place: 0, role: 'disks', datastore: place.datastore })
    .execute();
  const blendId = newId('blend');
  await db
    .insertInto('blend')
    .values({
      id: blendId,
      pool_id: poolId,
      number: 1,
      image_version_id: older.id,
      made_ms: estate.clock.now(),
    })
    .execute();
  await db.updateTable('pool').set({ blend_id: blendId }).where('id', '=', poolId).execute();
  const taken = await db.selectFrom('host').select('name').execute();
  const { names } = must(
    planNames({ pattern: pool.pattern, start: 1 + taken.length, count, taken: taken.map((row) => row.name) }),
  );
  const machines = await estate.seed.hosts(
    names.map((host) => ({ name: host, imageId: older.image_id, rebuiltAt: estate.clock.now() })),
    { name, ou, ...place, size, disks },
  );
  const rows = names.map((host, i) => ({
    id: newId('host'),
    pool_id: poolId,
    name: host,
    machine_id: machines[i] ?? '',
    service: 'in service' as const,
    work: 'none' as const,
    blend_id: blendId,
    next_blend_id: null,
    note: '',
  }));
  for (let i = 0; i < rows.length; i += 500)
    await db
      .insertInto('host')
      .values(rows.slice(i, i + 500))
      .execute();
  return { poolId, newestId: newest.id };
}
