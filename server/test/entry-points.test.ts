/** What people open of a package keeps its identifier from version to version. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { EntryPoint } from '@vatline/core/container/manifest';
import { addEntryPoints, entryPointsByVersion, entryPointsOf } from '../src/package/entry-points.ts';
import { TestServer } from './harness.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open();
  const { db } = server.app;
  for (const id of ['reader', 'labels'])
    await db
      .insertInto('package')
      .values({ id, name: id, publisher: 'Quillmark', delivery: 'container', note: '' })
      .execute();
});
afterAll(() => server.close());

/** A version whose container nobody looks at here. */
async function version(package_id: string, number: string, entries: readonly EntryPoint[]): Promise<string> {
  const { db } = server.app;
  const id = `${package_id} ${number}`;
  const row = { id, package_id, version: number, state: 'draft', digest: 'd', details_json: '{}' } as const;
  await db
    .insertInto('package_version')
    .values({ ...row, files: 0, size_bytes: 0, container_bytes: 0, built_ms: 0, format: 'oci' })
    .execute();
  await addEntryPoints(db, row, entries);
  return id;
}
const entry = (name: string, path = `${name}.exe`): EntryPoint => ({ name, path });
const idsOf = async (id: string) =>
  (await entryPointsByVersion(server.app.db, [id])).get(id)?.map((one) => one.id);

describe('entry points', () => {
  it('of one name have one identifier in every version, wherever the program went', async () => {
    const one = await version('reader', '1', [entry('Reader'), entry('Settings')]);
    const two = await version('reader', '2', [entry('Settings', 'tools\\set.exe'), entry('Reader')]);
    const [reader, settings] = (await idsOf(one)) ?? [];
    expect(await idsOf(two)).toEqual([settings, reader]);
    expect(await entryPointsOf(server.app.db, two)).toEqual([
      { name: 'Settings', path: 'tools\\set.exe' },
      { name: 'Reader', path: 'Reader.exe' },
    ]);
  });

  it('of two with one name are told apart by their order', async () => {
    const ids = await idsOf(await version('reader', '3', [entry('Reader'), entry('Reader', 'other.exe')]));
    expect(new Set(ids).size).toBe(2);
    expect(ids?.[0]).toBe((await idsOf('reader 1'))?.[0]);
  });

  it('of another package are others, whatever they are called', async () => {
    expect(await idsOf(await version('labels', '1', [entry('Reader')]))).not.toEqual(
      (await idsOf('reader 1'))?.slice(0, 1),
    );
  });

  it('outlive the version that brought them', async () => {
    const last = await version('reader', '4', [entry('Camera')]);
    const [camera] = (await idsOf(last)) ?? [];
    await server.app.db.deleteFrom('package_version').where('id', '=', last).execute();
    expect(await idsOf(last)).toBeUndefined();
    expect(await idsOf(await version('reader', '5', [entry('Camera')]))).toEqual([camera]);
  });
});
