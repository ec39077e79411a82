/** Making pools in the demo's estate: what fits, what would make it fit, and what happens where it does not. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { FitChangeShown, PoolPreview } from '@vatline/contract/pool/preview';
import type { LedgerRow } from '@vatline/contract/job';
import type { LineSummary } from '@vatline/contract/image';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { Datastore } from '@vatline/contract/pool/datastore';
import type { StackedDisk } from '../src/estate/driver/disks.ts';
import { TestServer } from './harness.ts';
import { hostsOf, ledgerOf } from './usual-requests.ts';

let server: TestServer;
let version: string;
const get = <T>(path: string) => server.get<T>(path);
const estate = () => server.app.estate;

beforeAll(async () => {
  server = await TestServer.open({ demo: true });
  const lines = await get<LineSummary[]>('/lines');
  const reader = lines.find((line) => line.name === 'Reader desktop');
  version = reader?.versions.find((one) => one.state === 'approved')?.id ?? '';
}, 120_000);
afterAll(() => server.close());

const yardB = { site: 'yard-b', network: 'desks', datastore: 'standard' };
const yardA = { site: 'yard-a', network: 'desks', datastore: 'standard' };
const sixty = (change: object = {}) => ({
  ...server.newPool(version, { name: 'sixty', pattern: 'WSIXTY-##', count: 60, sessionLimit: 1 }),
  size: 'desk-4',
  places: [yardB],
  ...change,
});
const preview = (body: object) => server.send<PoolPreview>('post', '/pools/preview', body);

/** All that outside systems hold for names that begin so. */
async function traces(prefix: string): Promise<Record<string, number>> {
  const { hypervisor, directory, licences } = estate();
  const own = (names: readonly string[]) => names.filter((name) => name.startsWith(prefix)).length;
  return {
    machines: own(await hypervisor.machineNames()),
    accounts: own(await directory.computerNames()),
    disks: (await hypervisor.diskUses([])).reduce((sum, use) => sum + use.disks, 0),
    activations: (await licences.keys()).reduce((sum, key) => sum + key.used, 0),
    reservations: own(
      (await server.app.db.selectFrom('host_reserved').select('name').execute()).map((row) => row.name),
    ),
  };
}

describe('sixty hosts on a site that is nearly full', () => {
  it('do not fit: the answer says how many do, what gives out, and three changes that would do', async () => {
    const { fit, faults } = await preview(sixty());
    expect(fit).toMatchObject({ fits: false, largest: 10, binding: 'cores' });
    const rows = fit?.places[0]?.rows ?? [];
    // 384 cores, of which 60 × 4 + 6 × 4 + 8 × 10 = 344 are used.
    expect(rows.find((row) => row.what === 'cores')).toMatchObject({
      needed: 240,
      there: 40,
      after: -200,
      largest: 10,
    });
    // 2,400 GB, of which 60 × 16 + 6 × 32 + 8 × 64 = 1,664 are used.
    expect(rows.find((row) => row.what === 'memory')).toMatchObject({
      there: 736e9,
      after: -224e9,
      largest: 46,
    });
    expect(faults.find((fault) => fault.path === 'count')?.message).toBe(
      '60 do not fit: not enough cores on yard-b; the largest batch that fits is 10',
    );
    expect(fit?.changes.map((change) => change.kind)).toEqual(['site', 'two sites', 'quota']);
    expect(quotaOf(fit?.changes)).toMatchObject({
      asks: [
        { what: 'cores', more: 200 },
        { what: 'memory', more: 224e9 },
      ],
      text: expect.stringContaining('raise the quota of yard-b by 200 cores and 224 GB of memory') as string,
    });
  });
  const quotaOf = (changes: readonly FitChangeShown[] = []) =>
    changes.find((change) => change.kind === 'quota');

  it('fit on both sites by the change that is offered, the first so many here and the rest there', async () => {
    const { fit } = await preview(sixty());
    const change = fit?.changes.find((one) => one.kind === 'two sites');
    if (change?.kind !== 'two sites') throw new Error('no such change');
    expect(change).toMatchObject({ hosts: 20, rest: 40, here: { site: 'yard-b', size: 'desk-2' } });
    const places = [{ ...yardB, atMost: change.hosts }, yardA];
    const after = await preview(sixty({ size: change.here.size, places }));
    expect(after.faults).toEqual([]);
    expect(after.fit?.places).toMatchObject([
      { site: 'yard-b', hosts: 20, fits: true },
      { site: 'yard-a', hosts: 40, fits: true },
    ]);
  });

  it('are made in the number that is offered', async () => {
    const before = await traces('WTEN');
    const body = sixty({ name: 'ten', pattern: 'WTEN-##', count: 10 });
    const { jobId, poolId } = await server.send<{ jobId: string; poolId: string }>('post', '/pools', body);
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'done' });
    expect(await hostsOf(get, poolId)).toHaveLength(10);
    // A child, a swap file each; the parent of this image was there already, for the reading rooms.
    expect(await traces('WTEN')).toEqual({
      ...before,
      machines: 10,
      accounts: 10,
      disks: (before['disks'] ?? 0) + 20,
    });
    const site = (await estate().hypervisor.sites()).find((one) => one.name === 'yard-b');
    expect(site?.cores).toEqual({ total: 384, used: 384 });
  });

  it('forced, end with a true ledger; undo leaves nothing behind in any system', async () => {
    const before = await traces('WOVER');
    const body = sixty({
      name: 'over',
      pattern: 'WOVER-##',
      count: 6,
      size: 'desk-2',
      places: [{ ...yardB, atMost: 2 }, yardA],
      licence: 'desktop-multi-2027',
      onFault: 'go on',
      isAnyway: true,
    });
    expect((await preview(body)).faults).toEqual([]);
    const { jobId } = await server.send<{ jobId: string }>('post', '/pools', body);
    const ended = await server.untilEnded(jobId);
    expect(ended).toMatchObject({ state: 'failed' });
    expect(ended.error).toMatch(
      /^2 hosts were not made; the first is WOVER-01: yard-b refuses WOVER-01: it needs 2 cores/,
    );
    const ledger = await ledgerOf(get, jobId);
    const made = (system: string) =>
      ledger.filter((row) => row.system === system && row.state === 'made').map((row) => row.object);
    expect(made('hypervisor')).toEqual(['WOVER-03', 'WOVER-04', 'WOVER-05', 'WOVER-06']);
    for (const system of ['directory', 'licences']) expect(made(system)).toEqual(made('hypervisor'));
    expect(made('broker')).toEqual(['over', ...made('hypervisor')]);
    expect(await traces('WOVER')).toMatchObject({
      machines: 4,
      accounts: 4,
      activations: 4,
      reservations: 2,
    });
    const { jobId: undo } = await server.send<{ jobId: string }>('post', `/jobs/${jobId}/undo`);
    expect(await server.untilEnded(undo)).toMatchObject({ state: 'done' });
    expect(await traces('WOVER')).toEqual(before);
    expect(await estate().broker.pool('over')).toBeUndefined();
  });
});

describe('a pool', () => {
  const small = (name: string, change: object = {}) => ({
    ...server.newPool(version, { name, pattern: `W${name.toUpperCase()}-#`, count: 2 }),
    ...change,
  });
  const make = async (body: object) => {
    const { jobId, poolId } = await server.send<{ jobId: string; poolId: string }>('post', '/pools', body);
    return { job: await server.untilEnded(jobId), jobId, poolId };
  };

  it('tells the broker what people are held to, and keeps all that was chosen', async () => {
    const settings = {
      title: 'Records',
      idleMinutes: 30,
      disconnectMinutes: 120,
      mayRestart: false,
      zone: 'UTC',
    };
    const { poolId } = await make(small('kept', settings));
    expect(await estate().broker.pool('kept')).toEqual({ ...settings, sessionLimit: 10 });
    const detail = await get<PoolDetail>(`/pools/${poolId}`);
    expect(detail.settings).toMatchObject({ ...settings, size: 'desk-2', signOut: 'keep', days: 30 });
    expect(detail.places).toEqual([{ ...yardA, parentDatastore: null, dataDatastore: null, atMost: null }]);
  });

  it('may be held back: nobody is let in until somebody says so, whatever is done to its hosts', async () => {
    const { poolId, job } = await make(small('held', { isHeld: true }));
    expect(job.state).toBe('done');
    const states = async () => (await hostsOf(get, poolId)).map((host) => host.state);
    expect(await states()).toEqual(['held', 'held']);
    const act = (action: string, hosts: string[]) =>
      server.send<{ hosts: string[] }>('post', `/pools/${poolId}/actions`, { action, hosts });
    expect((await act('let in', ['WHELD-2'])).hosts).toEqual(['WHELD-2']);
    expect(await states()).toEqual(['held', 'in service']);
    expect((await act('hold', ['WHELD-1', 'WHELD-2'])).hosts).toEqual(['WHELD-2']);
    expect((await get<PoolDetail>(`/pools/${poolId}`)).inService).toBe(0);
  });

  it('whose script fails says so in its ledger, host by host', async () => {
    const { job, jobId } = await make(small('script', { afterMaking: 'Set-Something\nexit 4\n' }));
    expect(job.state).toBe('failed');
    const failed = (await ledgerOf(get, jobId)).filter((row) => row.state === 'failed');
    expect(failed.map((row) => [row.object, row.system, row.detail])).toEqual([
      ['WSCRIPT-1', 'script', 'the script on WSCRIPT-1 ended with exit 4'],
      ['WSCRIPT-2', 'script', 'the script on WSCRIPT-2 ended with exit 4'],
    ]);
  });

  it('promises an end, and holds it against what happens', async () => {
    const body = small('promised', { pattern: 'WPROM-##', count: 16 });
    const { minutes, minutesAtMost } = await preview(body);
    const { job } = await make(body);
    expect(job.promisedAt).toBe(Math.round(job.createdAt + minutesAtMost * 60_000));
    expect(minutesAtMost).toBeGreaterThan(minutes);
    // Two batches; two thirds and four thirds of the promise are far beyond its spread.
    const took = ((job.endedAt ?? 0) - job.createdAt) / 60_000;
    expect(took / minutesAtMost).toBeGreaterThan(0.66);
    expect(took / minutesAtMost).toBeLessThan(1.33);
  });

  it('waits for the agent of each host, says until when, and gives up one that never reports', async () => {
    await server.app.estate.addFault({ kind: 'agent silent', target: 'WSILENT-2' });
    const body = small('silent', { onFault: 'go on' });
    const { jobId, poolId } = await server.send<{ jobId: string; poolId: string }>('post', '/pools', body);
    let waiting: readonly LedgerRow[] = [];
    for (let i = 0; i < 40 && waiting.length === 0; i++) {
      await server.advance(1);
      waiting = (await ledgerOf(get, jobId)).filter(
        (row) => row.waits !== null && row.object === 'WSILENT-2',
      );
    }
    expect(waiting[0]?.system).toBe('agent');
    expect((waiting[0]?.waits?.until ?? 0) - (waiting[0]?.waits?.since ?? 0)).toBe(15 * 60_000);
    expect(await server.untilEnded(jobId)).toMatchObject({ state: 'failed' });
    const failed = (await ledgerOf(get, jobId)).filter((row) => row.state === 'failed');
    expect(failed).toMatchObject([
      {
        object: 'WSILENT-2',
        system: 'agent',
        detail: 'the agent on WSILENT-2 has been silent for 15 minutes',
        waits: null,
      },
    ]);
    // It takes nobody before its agent has reported.
    expect((await hostsOf(get, poolId)).map((host) => host.name)).toEqual(['WSILENT-1']);
  });

  it('uses accounts that somebody made beforehand, and leaves them when it is undone', async () => {
    const unit = 'OU=Desks,OU=Hosts,DC=wrenfield,DC=example';
    await estate().directory.createComputer('k', 'WADOPT-1', unit, null);
    const body = small('adopt', { pattern: 'WADOPT-#' });
    expect((await preview(body)).clashes).toEqual(['WADOPT-1']);
    const adopting = { ...body, isAdopting: true };
    expect((await preview(adopting)).faults).toEqual([]);
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'register' });
    const { job, jobId } = await make(adopting);
    expect(job.state).toBe('failed');
    const { jobId: undo } = await server.send<{ jobId: string }>('post', `/jobs/${jobId}/undo`);
    expect(await server.untilEnded(undo)).toMatchObject({ state: 'done' });
    expect((await estate().directory.computerNames()).filter((name) => name.startsWith('WADOPT'))).toEqual([
      'WADOPT-1',
    ]);
  });

  it('does not ask for more activations than a key has left, those of others included', async () => {
    const keys = (count: number) =>
      preview(small('keys', { licence: 'desktop-multi-2027', count, pattern: 'WKEYS-###', size: 'desk-2' }));
    expect((await keys(2)).fit?.shared.find((row) => row.what === 'licences')).toMatchObject({ there: 120 });
    const { fit, faults } = await keys(121);
    expect(fit?.shared.find((row) => row.what === 'licences')).toMatchObject({ after: -1, largest: 120 });
    expect(faults[0]?.message).toContain('not enough');
    await estate().licences.activate('k', 'desktop-multi-2027', 'WELSEWHERE-1');
    expect((await keys(2)).fit?.shared.find((row) => row.what === 'licences')).toMatchObject({ there: 119 });
  });

  it('passes over names that are taken where that is wanted', async () => {
    const body = small('gaps', { pattern: 'WCL-DS-###', start: 23, count: 3, fillGaps: true });
    expect((await preview(body)).names).toEqual(['WCL-DS-025', 'WCL-DS-026', 'WCL-DS-027']);
  });

  it('is not refused a version that is not approved, nor the account that may do all, but is told', async () => {
    const { conditions } = await preview(small('told'));
    expect(conditions.map((one) => [one.what, one.verdict])).toEqual([
      ['unit', 'holds'],
      ['account', 'warns'],
      ['image', 'holds'],
      ['agent', 'holds'],
    ]);
  });
});

describe('disks', () => {
  const of = async (host: string) => {
    const row = await server.app.db
      .selectFrom('host')
      .select('machine_id')
      .where('name', '=', host)
      .executeTakeFirstOrThrow();
    return estate().hypervisor.disksOf(row.machine_id ?? '');
  };
  const roles = (disks: readonly StackedDisk[]) => disks.map((disk) => disk.role);

  it('stand on one another as their hosts were made', async () => {
    const reading = await of('WCL-RR-001');
    expect(roles(reading)).toEqual(['parent', 'child', 'clean', 'running', 'swap']);
    const [parent, child, clean, running] = reading;
    expect([child?.base, clean?.base, running?.base]).toEqual([parent?.id, child?.id, clean?.id]);
    expect(roles(await of('WCL-CC-001'))).toEqual(['parent', 'child', 'swap']);
    expect(roles(await of('WCL-ML-01'))).toEqual(['own', 'swap', 'data']);
    expect(roles(await of('WCL-DG-01'))).toEqual(['scratch']);
  });

  it('of a datastore are shown by whose they are, and whose they are adds up', async () => {
    const { datastores } = await server.get<{ datastores: Datastore[] }>('/datastores');
    for (const store of datastores)
      expect([store.name, store.uses.reduce((sum, use) => sum + use.bytes, 0)]).toEqual([
        store.name,
        store.usedBytes,
      ]);
    const standard = datastores.find((one) => one.site === 'yard-a' && one.name === 'standard');
    const own = server.outside<{ n: number }>(
      `select count(*) as n from disk join machine on machine.id = machine_id
        where disk.site = 'yard-a' and datastore = 'standard' and machine.name like 'WCL-CC-%'`,
    );
    expect(standard?.uses.find((use) => use.name === 'contact-centre')?.disks).toBe(own[0]?.n);
    // Their disks begin anew each night, and do not grow from day to day.
    const cleaned = server.outside<{ n: number }>(
      `select count(distinct machine_id) as n from disk where site = 'yard-a' and datastore = 'standard'
        and (role = 'own' or role = 'child')
        and not exists (select 1 from disk as clean where clean.id = disk.machine_id || '/clean')`,
    );
    expect(standard?.growingHosts).toBe(cleaned[0]?.n);
  });

  it('of a datastore add up to its used bytes, and grow by the day', async () => {
    const sums = async () => {
      const { hypervisor } = estate();
      const uses = await hypervisor.diskUses([]);
      const takenOn = (site: string, datastore: string) =>
        uses
          .filter((use) => use.site === site && use.datastore === datastore)
          .reduce((sum, use) => sum + use.bytes, 0);
      return (await hypervisor.sites()).flatMap((site) =>
        site.datastores.map(
          ({ name, usedBytes }) => [`${site.name}/${name}`, usedBytes, takenOn(site.name, name)] as const,
        ),
      );
    };
    const before = await sums();
    for (const [, used, sum] of before) expect(used).toBe(sum);
    // Well before the night, in which hosts are rebuilt.
    await server.advance(4 * 60);
    const after = await sums();
    for (const [, used, sum] of after) expect(used).toBe(sum);
    const standard = (rows: typeof before) => rows.find(([name]) => name === 'yard-a/standard')?.[1] ?? 0;
    // 64 hosts that grow by some 0.2 GB a day each, and those that were made above.
    const perDay = ((standard(after) - standard(before)) / 64) * 6;
    expect(perDay).toBeGreaterThan(0.15e9);
    expect(perDay).toBeLessThan(0.35e9);
  });
});
