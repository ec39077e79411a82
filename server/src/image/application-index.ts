/** Which applications each version holds, kept apart from inventories so that all can be asked at once. */
import type { FoundApplication } from '@vatline/contract/application-search';
import type { ImageVersion } from '@vatline/contract/image';
import type { DyeName } from '@vatline/core/dye/dyes';
import { findApplications, readQuestion, type NamedApplication } from '@vatline/core/image/find-applications';
import type { Entry } from '@vatline/core/image/inventory';
import { fromJson, type Db } from '../platform/database.ts';

/** Keeps what a version holds; again does nothing more. */
export async function indexApplications(db: Db, versionId: string, entries: readonly Entry[]): Promise<void> {
  await db.transaction().execute(async (tx) => {
    for (const entry of entries) {
      if (entry.kind !== 'application') continue;
      const { publisher, name, version } = entry;
      await tx
        .insertInto('application')
        .values({ publisher, name, version })
        .onConflict((c) => c.doNothing())
        .execute();
      const { id } = await tx
        .selectFrom('application')
        .select('id')
        .where('publisher', '=', publisher)
        .where('name', '=', name)
        .where('version', '=', version)
        .executeTakeFirstOrThrow();
      await tx
        .insertInto('version_holds')
        .values({ version_id: versionId, application_id: id })
        .onConflict((c) => c.doNothing())
        .execute();
    }
    await tx.updateTable('image_version').set({ indexed: 1 }).where('id', '=', versionId).execute();
  });
}

/**
 * Applications of any version or container that a question means, with where each is and how many
 * hosts have it, oldest version first.
 */
export async function searchApplications(db: Db, text: string, atMost: number): Promise<FoundApplication[]> {
  const question = readQuestion(text);
  const inImages = findApplications(await db.selectFrom('application').selectAll().execute(), question);
  const inContainers = findApplications(await containers(db), question);
  const holding = await versionsHolding(
    db,
    inImages.map((application) => application.id),
  );
  const found = new Map<string, FoundApplication>();
  const rowOf = ({ publisher, name, version }: NamedApplication) => {
    const key = [name, publisher, version].join('\0');
    const row = found.get(key) ?? { publisher, name, version, versions: [], containers: [], pools: [] };
    found.set(key, row);
    return row;
  };
  for (const application of inImages) {
    const versions = holding.get(application.id);
    if (versions) rowOf(application).versions.push(...versions);
  }
  for (const container of inContainers)
    rowOf(container).containers.push({
      packageId: container.packageId,
      packageVersionId: container.id,
      state: container.state as 'live' | 'held',
    });
  const blends = await blendsInUse(db);
  for (const row of found.values()) row.pools.push(...poolsWith(row, blends));
  return findApplications([...found.values()], question).slice(0, atMost);
}

/** Hosts by pool whose blend brings the application, in its image or attached; each host once. */
function poolsWith(row: FoundApplication, blends: readonly BlendInUse[]): FoundApplication['pools'] {
  const images = new Set(row.versions.map((version) => version.versionId));
  const packages = new Set(row.containers.map((container) => container.packageVersionId));
  const pools = new Map<string, number>();
  for (const { imageVersionId, packageVersionIds, pool, hosts } of blends)
    if (images.has(imageVersionId) || packageVersionIds.some((id) => packages.has(id)))
      pools.set(pool, (pools.get(pool) ?? 0) + hosts);
  return [...pools].map(([pool, hosts]) => ({ pool, hosts }));
}

interface BlendInUse {
  readonly imageVersionId: string;
  readonly packageVersionIds: readonly string[];
  readonly pool: string;
  readonly hosts: number;
}

async function blendsInUse(db: Db): Promise<BlendInUse[]> {
  const rows = await db
    .selectFrom('host')
    .innerJoin('blend', 'blend.id', 'host.blend_id')
    .innerJoin('pool', 'pool.id', 'host.pool_id')
    .select(({ fn }) => [
      'blend.image_version_id as imageVersionId',
      'blend.packages_json as packages',
      'pool.name as pool',
      fn.countAll<number>().as('hosts'),
    ])
    .groupBy(['blend.id', 'pool.name'])
    .orderBy('pool.name')
    .execute();
  return rows.map(({ packages, ...row }) => ({ ...row, packageVersionIds: fromJson<string[]>(packages) }));
}

function containers(db: Db) {
  return db
    .selectFrom('package_version')
    .innerJoin('package', 'package.id', 'package_version.package_id')
    .select([
      'package_version.id',
      'package.id as packageId',
      'package.publisher',
      'package.name',
      'package_version.version',
      'package_version.state',
    ])
    .execute();
}

/** Versions that are there, by the application they hold, newest first within their line. */
async function versionsHolding(
  db: Db,
  applicationIds: readonly number[],
): Promise<Map<number, FoundApplication['versions']>> {
  const holding = new Map<number, FoundApplication['versions']>();
  if (applicationIds.length === 0) return holding;
  const rows = await db
    .selectFrom('version_holds')
    .innerJoin('image_version', 'image_version.id', 'version_holds.version_id')
    .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
    .select([
      'version_holds.application_id as applicationId',
      'image_version.id as versionId',
      'image_version.number',
      'image_version.dye',
      'image_version.state',
      'image_line.id as lineId',
      'image_line.name as line',
    ])
    .where('version_holds.application_id', 'in', applicationIds)
    .where('image_version.gone_ms', 'is', null)
    .orderBy('image_line.name')
    .orderBy('image_version.number', 'desc')
    .execute();
  for (const { applicationId, dye, state, ...row } of rows) {
    const list = holding.get(applicationId) ?? [];
    list.push({ ...row, dye: dye as DyeName, state: state as ImageVersion['state'] });
    holding.set(applicationId, list);
  }
  return holding;
}
