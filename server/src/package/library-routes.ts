/** The versions of a package together: side by side or not, which are kept, and what lies between two. */
import { existsSync, rmSync } from 'node:fs';
import { packageEndpoints, packageFileEndpoints } from '@vatline/contract/package';
import { change, DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import type { Note } from '../platform/journal.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import { sendFile } from '../platform/send-stream.ts';
import { turnsForOthers } from '../platform/turns.ts';
import type { PackageComparison } from '@vatline/core/package/compare-packages';
import type { ComparedVersion } from './container-worker.ts';
import { entryPointsOf } from './entry-points.ts';
import type { PackageStore } from './store.ts';
import type { VersionRow } from './tables.ts';
import { packageUse } from './version-use.ts';
import { containerWork } from './work.ts';

/** So many rows of each kind are sent; the bills of materials have them all. */
const MOST_ROWS = 500;

export function libraryRoutes(door: Door, parts: Parts, store: PackageStore): void {
  const { db } = parts;

  door.serve(packageEndpoints.change, async ({ params, body }) => {
    const { name } = await packageNamed(parts, params.id);
    const { sideBySide, keepVersions } = body;
    const said = [
      ...(sideBySide === undefined ? [] : [sideBySide ? 'side by side' : 'one version at a time']),
      ...(keepVersions === undefined
        ? []
        : [keepVersions === null ? 'all kept' : `newest ${keepVersions} kept`]),
    ];
    return change(
      parts,
      async () => {
        await db
          .updateTable('package')
          .set({
            ...(sideBySide === undefined ? {} : { side_by_side: Number(sideBySide) }),
            ...(keepVersions === undefined ? {} : { keep_versions: keepVersions }),
          })
          .where('id', '=', params.id)
          .execute();
        return DONE;
      },
      () => packageNote(params.id, `${name}: ${said.join(', ')}`),
    );
  });

  door.serve(packageEndpoints.deleteVersions, async ({ params, body }) => {
    const { name } = await packageNamed(parts, params.id);
    const versions = await store.versions.some([...new Set(body.versionIds)]);
    const isOwn = ({ package_id }: VersionRow) => package_id === params.id;
    if (versions.length < new Set(body.versionIds).size || !versions.every(isOwn))
      throw notFound('such version of this package');
    await refuseNeeded(parts, versions);
    let freedBytes = 0;
    const others = turnsForOthers();
    for (const version of versions) {
      await others();
      // A rollout to it may have begun since the first was deleted.
      await refuseNeeded(parts, [version]);
      freedBytes += await deleteVersion(parts, store, version, name);
    }
    return { freedBytes };
  });

  door.serve(packageEndpoints.compareVersions, async ({ params, query }) => {
    const after = await store.versions.get(params.id);
    const before = await store.versions.get(query.with);
    if (before.package_id !== after.package_id)
      throw invalid([{ path: 'with', message: 'is a version of another package' }]);
    const found = await containerWork(parts, 'compareVersions', {
      before: await comparedVersion(parts, store, before),
      after: await comparedVersion(parts, store, after),
    });
    return {
      before: before.version,
      after: after.version,
      ...presentComparison(found),
      update: { ...found.update, hosts: await hostsWith(parts, before.id) },
    };
  });

  // A document of its own, so it stands outside the checked endpoints.
  door.serveRaw(packageFileEndpoints.bom, async ({ params, response }) => {
    const version = await store.versions.get(params.id);
    const path = `${store.containers.path(version.digest)}.cdx.json`;
    if (!existsSync(path)) throw notFound('bill of materials of this version');
    response.attachment(`${version.digest.slice(0, 12)}.cdx.json`);
    await sendFile(path, response.type('application/vnd.cyclonedx+json'));
  });
}

/** Throws a conflict that says what needs the first of some versions that is needed. */
async function refuseNeeded(parts: Parts, versions: readonly VersionRow[]): Promise<void> {
  const use = await packageUse(parts);
  for (const { id, version } of versions) {
    const needs = use.get(id);
    if (needs) throw conflict(`Version ${version} is needed: ${needs.join(', ')}`);
  }
}

function presentComparison(found: PackageComparison) {
  const cut = <T>(rows: readonly T[]) => rows.slice(0, MOST_ROWS);
  return {
    counts: {
      added: found.added.length,
      removed: found.removed.length,
      changed: found.changed.length,
      moved: found.moved.length,
      same: found.same,
    },
    added: cut(found.added) as never[],
    removed: cut(found.removed) as never[],
    changed: cut(found.changed) as never[],
    moved: cut(found.moved) as never[],
    entryPoints: {
      added: [...found.entryPoints.added],
      removed: [...found.entryPoints.removed],
      changed: [...found.entryPoints.changed],
    },
  };
}

async function packageNamed({ db }: Parts, id: string): Promise<{ name: string }> {
  const row = await db.selectFrom('package').select('name').where('id', '=', id).executeTakeFirst();
  if (!row) throw notFound('such package');
  return row;
}

function packageNote(id: string, text: string): Omit<Note, 'at'> {
  return { kind: 'packages', subject: `package:${id}`, text, link: `/packages/${id}` };
}

async function comparedVersion(
  { db }: Parts,
  store: PackageStore,
  row: VersionRow,
): Promise<ComparedVersion> {
  return {
    version: row.version,
    container: store.containers.path(row.digest),
    entryPoints: await entryPointsOf(db, row.id),
    contentBytes: row.size_bytes,
    containerBytes: row.container_bytes,
  };
}

/** Hosts that have a version attached now. */
async function hostsWith({ db }: Parts, versionId: string): Promise<number> {
  const { hosts } = await db
    .selectFrom('blend_package')
    .innerJoin('host', 'host.blend_id', 'blend_package.blend_id')
    .select(({ fn }) => fn.countAll<number>().as('hosts'))
    .where('package_version_id', '=', versionId)
    .executeTakeFirstOrThrow();
  return hosts;
}

/** Takes the containers away, here and on the share; gives the bytes that are free then. */
async function deleteVersion(
  parts: Parts,
  store: PackageStore,
  version: VersionRow,
  name: string,
): Promise<number> {
  const { db, estate } = parts;
  const containers = await db
    .selectFrom('container')
    .selectAll()
    .where('version_id', '=', version.id)
    .execute();
  if (version.share !== null)
    for (const ending of ['', '.p7s'])
      await estate.share.remove(newId('share'), version.share, version.digest + ending);
  await change(
    parts,
    async () => {
      await db.deleteFrom('container').where('version_id', '=', version.id).execute();
      await db.deleteFrom('package_version').where('id', '=', version.id).execute();
    },
    () => packageNote(version.package_id, `${name} ${version.version} was deleted`),
  );
  let freed = 0;
  for (const { digest, size_bytes } of containers) {
    const other = await db
      .selectFrom('container')
      .select('version_id')
      .where('digest', '=', digest)
      .executeTakeFirst();
    // The same bytes may be the container of another version.
    if (other) continue;
    for (const ending of ['', '.cdx.json', '.p7s'])
      rmSync(store.containers.path(digest) + ending, { recursive: true, force: true });
    freed += size_bytes;
  }
  return freed;
}
