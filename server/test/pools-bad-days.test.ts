/** What goes wrong while hosts are being made: the ledger tells it, and nothing that is somebody else's is touched. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { leanHardware } from '@vatline/core/image/hardware';
import type { LineSummary } from '@vatline/contract/image';
import type { LedgerRow } from '@vatline/contract/job';
import type { PoolPreview } from '@vatline/contract/pool/preview';
import { TestServer } from './harness.ts';
import { ledgerOf } from './usual-requests.ts';

let server: TestServer;
let version: { id: string; number: number };
const get = <T>(path: string) => server.get<T>(path);
const estate = () => server.app.estate;

beforeAll(async () => {
  server = await TestServer.open({ demo: true });
  const lines = await get<LineSummary[]>('/lines');
  const found = lines
    .find((line) => line.name === 'Reader desktop')
    ?.versions.find((one) => one.state === 'approved');
  if (!found) throw new Error('the demo has no approved version');
  version = found;
}, 120_000);
afterAll(() => server.close());

const pool = (name: string, change: object = {}) => ({
  ...server.newPool(version.id, { name, pattern: `W${name.toUpperCase()}-##`, count: 4 }),
  ...change,
});
const begin = (body: object) => server.send<{ jobId: string; poolId: string }>('post', '/pools', body);
const preview = (body: object) => server.send<PoolPreview>('post', '/pools/preview', body);
const failed = async (jobId: string): Promise<LedgerRow[]> =>
  (await ledgerOf(get, jobId)).filter((row) => row.state === 'failed');
const undo = async (jobId: string) => {
  const { jobId: undoing } = await server.send<{ jobId: string }>('post', `/jobs/${jobId}/undo`);
  expect(await server.untilEnded(undoing)).toMatchObject({ state: 'done' });
};
const machines = async (prefix: string) =>
  (await estate().hypervisor.machineNames()).filter((name) => name.startsWith(prefix)).sort();

describe('while hosts are being made', () => {
  it('somebody else takes a name: its row says so, going on does not help, and undo leaves what is theirs', async () => {
    const { jobId } = await begin(pool('clash', { atOnce: 1 }));
    const spec = { name: 'WCLASH-03', site: 'yard-a', datastore: 'standard', hardware: leanHardware };
    await estate().hypervisor.createMachine('of somebody else', spec);
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'failed' });
    const told = {
      object: 'WCLASH-03',
      system: 'hypervisor',
      detail: 'there is a machine named WCLASH-03 already',
    };
    expect(await failed(jobId)).toMatchObject([told]);
    await server.send('post', `/jobs/${jobId}/go-on`);
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'failed' });
    expect(await failed(jobId)).toMatchObject([told]);
    await undo(jobId);
    expect(await machines('WCLASH')).toEqual(['WCLASH-03']);
  });

  it('the datastore fills half way: those that found room are there, the others say why', async () => {
    const { jobId } = await begin(
      pool('full', { atOnce: 1, places: [{ site: 'yard-b', network: 'desks', datastore: 'fast' }] }),
    );
    for (let i = 0; i < 30 && (await machines('WFULL')).length < 2; i++) await server.advance(1);
    const store = (await estate().hypervisor.sites())
      .find((one) => one.name === 'yard-b')
      ?.datastores.find((one) => one.name === 'fast');
    const free = (store?.capacityBytes ?? 0) - (store?.usedBytes ?? 0);
    const hardware = {
      ...leanHardware,
      disks: [{ sizeBytes: free - 3e9, controller: 'nvme', thin: false } as const],
    };
    await estate().hypervisor.createMachine('large', {
      name: 'WLARGE',
      site: 'yard-b',
      datastore: 'fast',
      hardware,
    });
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'failed' });
    const [row] = await failed(jobId);
    expect(row?.detail).toMatch(
      /^the datastore fast of yard-b refuses WFULL-\d\d: it needs 2\.6 GB and [\d.]+ GB are free$/,
    );
    const made = (await ledgerOf(get, jobId)).filter(
      (one) => one.system === 'hypervisor' && one.state === 'made',
    );
    expect(await machines('WFULL')).toEqual(made.map((one) => one.object));
    await undo(jobId);
    expect(await machines('WFULL')).toEqual([]);
  });

  it('activations run out half way, and those used come back when it is undone', async () => {
    const key = 'desktop-multi-2027';
    for (let i = 0; i < 118; i++) await estate().licences.activate(`k${i}`, key, `WOTHER-${i}`);
    const body = pool('keys', { licence: key, onFault: 'go on' });
    expect((await preview(body)).faults[0]?.message).toBe(
      '4 do not fit: not enough activations; the largest batch that fits is 2',
    );
    const { jobId } = await begin({ ...body, isAnyway: true });
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'failed' });
    const rows = await failed(jobId);
    expect(rows).toHaveLength(2);
    for (const row of rows)
      expect(row).toMatchObject({
        system: 'licences',
        detail: `the key ${key} has no activation left of 120`,
      });
    await undo(jobId);
    expect((await estate().licences.keys())[0]?.used).toBe(118);
  });
});

describe('before anything is made', () => {
  it('a network that is nearly full says how many it has addresses for', async () => {
    const body = pool('maps', {
      count: 18,
      size: 'desk-2',
      places: [{ site: 'yard-b', network: 'maps', datastore: 'standard' }],
    });
    const { fit, faults } = await preview(body);
    // Of 29 addresses, 4 are reserved and 8 hosts of map-lab have one.
    expect(fit).toMatchObject({ largest: 17, binding: 'addresses' });
    expect(faults[0]?.message).toBe(
      '18 do not fit: not enough addresses on yard-b; the largest batch that fits is 17',
    );
    expect(fit?.changes.find((change) => change.kind === 'network')).toMatchObject({
      placing: { network: 'desks' },
    });
  });

  it('a version that was retired in between is refused, and so is one whose agent is missing', async () => {
    const retire = (state: string) => server.send('patch', `/versions/${version.id}`, { state });
    await server.send('put', '/caller', { role: 'approver' });
    await retire('retired');
    const refused = await server.refused('post', '/pools', pool('retired'));
    expect(refused.faults).toEqual([
      { path: 'imageVersionId', message: `version ${version.number} is retired` },
    ]);
    await retire('approved');
    expect((await preview(pool('retired'))).faults).toEqual([]);
    const row = await server.app.db
      .selectFrom('image_version')
      .selectAll()
      .where('id', '=', version.id)
      .executeTakeFirstOrThrow();
    const recipe = await server.app.db
      .selectFrom('recipe')
      .selectAll()
      .where('line_id', '=', row.line_id)
      .where('revision', '=', row.recipe_revision)
      .executeTakeFirstOrThrow();
    const steps = (JSON.parse(recipe.steps_json) as { kind: string }[]).filter(
      (step) => step.kind !== 'host agent',
    );
    await server.app.db
      .updateTable('recipe')
      .set({ steps_json: JSON.stringify(steps) })
      .where('line_id', '=', row.line_id)
      .where('revision', '=', row.recipe_revision)
      .execute();
    expect((await preview(pool('retired', { count: 3 }))).faults).toMatchObject([
      { path: 'imageVersionId', message: 'the image has no host agent, so that no host would ever report' },
    ]);
  });
});
