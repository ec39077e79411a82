/** Which applications each version holds, kept apart from inventories so that all can be asked at once. */
import type { FoundApplication } from '@vatline/contract/application-search';
import { findApplications, readQuestion, type NamedApplication } from '@vatline/core/image/find-applications';
import type { ApplicationEntry } from '@vatline/core/inventory/entry';
import type { Db } from '../platform/database.ts';

/** Keeps what a version holds; again does nothing more. Stands in the caller's transaction. */
export async function indexApplications(
  db: Db,
  versionId: string,
  applications: readonly ApplicationEntry[],
): Promise<void> {
  for (const { publisher, name, version } of applications) {
    await db
      .insertInto('application')
      .values({ publisher, name, version })
      .onConflict((c) => c.doNothing())
      .execute();
    const { id } = await db
      .selectFrom('application')
      .select('id')
      .where('publisher', '=', publisher)
      .where('name', '=', name)
      .where('version', '=', version)
      .executeTakeFirstOrThrow();
    await db
      .insertInto('version_holds')
      .values({ version_id: versionId, application_id: id })
      .onConflict((c) => c.doNothing())
      .execute();
  }
  await db.updateTable('image_version').set({ indexed: 1 }).where('id', '=', versionId).execute();
}

/** Forgets what a version held, and applications that no version holds any more. */
export async function forgetApplications(db: Db, versionId: string): Promise<void> {
  await db.transact(async () => {
    await db.deleteFrom('version_holds').where('version_id', '=', versionId).execute();
    await db
      .deleteFrom('application')
      .where(({ not, exists, selectFrom }) =>
        not(
          exists(
            selectFrom('version_holds')
              .select('version_id')
              .whereRef('version_holds.application_id', '=', 'application.id'),
          ),
        ),
      )
      .execute();
  });
}

/**
 * Applications of any version or container that a question means, with where each is and how many
 * hosts have it, oldest version first.
 */
export async function searchApplications(
  db: Db,
  text: string,
  atMost: number,
): Promise<{ readonly found: FoundApplication[]; readonly hosts: number }> {
  const question = readQuestion(text);
  const inImages = findApplications(await db.selectFrom('application').selectAll().execute(), question);
  const inContainers = findApplications(await containers(db), question);
  // Only what is shown is looked up: a short question means nearly everything.
  const shown = firstOf([...inImages.slice(0, atMost), ...inContainers.slice(0, atMost)], atMost);
  const meant = inImages.filter((application) => shown.has(keyOf(application)));
  const holding = await versionsHolding(
    db,
    meant.map((application) => application.id),
  );
  for (const application of meant)
    shown.get(keyOf(application))?.versions.push(...(holding.get(application.id) ?? []));
  for (const container of inContainers)
    shown.get(keyOf(container))?.containers.push({
      packageId: container.packageId,
      packageVersionId: container.id,
      state: container.state,
    });
  const blends = await blendsInUse(db);
  const bringing = new Set<BlendInUse>();
  for (const row of shown.values()) {
    const own = blends.filter(brings(row));
    row.pools.push(...hostsByPool(own));
    for (const blend of own) bringing.add(blend);
  }
  const hosts = [...bringing].reduce((sum, blend) => sum + blend.hosts, 0);
  return { found: [...shown.values()], hosts };
}

const keyOf = ({ publisher, name, version }: NamedApplication) => [name, publisher, version].join('\0');

/** The first so many in the order of an answer, each once, as rows that are still to be filled. */
function firstOf(applications: readonly NamedApplication[], atMost: number): Map<string, FoundApplication> {
  const ordered = findApplications(applications, { name: '', below: '' });
  const rows = new Map<string, FoundApplication>();
  for (const { publisher, name, version } of ordered) {
    if (rows.size === atMost) break;
    const key = keyOf({ publisher, name, version });
    if (!rows.has(key)) rows.set(key, { publisher, name, version, versions: [], containers: [], pools: [] });
  }
  return rows;
}

/** Whether a blend brings the application, in its image or attached. */
function brings(row: FoundApplication): (blend: BlendInUse) => boolean {
  const images = new Set(row.versions.map((version) => version.versionId));
  const packages = new Set(row.containers.map((container) => container.packageVersionId));
  return ({ imageVersionId, packageVersionIds }) =>
    images.has(imageVersionId) || packageVersionIds.some((id) => packages.has(id));
}

function hostsByPool(blends: readonly BlendInUse[]): FoundApplication['pools'] {
  const pools = new Map<string, number>();
  for (const { pool, hosts } of blends) pools.set(pool, (pools.get(pool) ?? 0) + hosts);
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
      'blend.id as blend',
      'pool.name as pool',
      fn.countAll<number>().as('hosts'),
    ])
    .groupBy(['blend.id', 'pool.name'])
    .orderBy('pool.name')
    .execute();
  const attached = await db.selectFrom('blend_package').select(['blend_id', 'package_version_id']).execute();
  return rows.map(({ blend, ...row }) => ({
    ...row,
    packageVersionIds: attached
      .filter(({ blend_id }) => blend_id === blend)
      .map(({ package_version_id }) => package_version_id),
  }));
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
    list.push({ ...row, dye, state });
    holding.set(applicationId, list);
  }
  return holding;
}
