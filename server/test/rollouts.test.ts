import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { SeeAs } from '@vatline/contract/access';
import type { JournalRow, Home } from '@vatline/contract/home';
import type { JobDetail } from '@vatline/contract/job';
import type { Page } from '@vatline/contract/page';
import { hostsOf, hostsOfRollout, ledgerOf, personLike } from './usual-requests.ts';
import type { PoolDetail } from '@vatline/contract/pool/endpoints';
import type { PoolPreview } from '@vatline/contract/pool/preview';
import type { ForecastAnswer, Rollout, RolloutRequest } from '@vatline/contract/rollout';
import { wallClock } from '@vatline/core/time/zone';
import { TestServer } from './harness.ts';

let server: TestServer;
let first: string;
let second: string;
let lineId: string;
const DAY = 86_400_000;

beforeAll(async () => {
  server = await TestServer.open();
  ({ lineId, versionId: first } = await server.makeVersion());
  await server.buildAndCutAgain(lineId);
  const line = await server.get<{ versions: { id: string }[] }>(`/lines/${lineId}`);
  second = line.versions[0]?.id ?? '';
});
afterAll(() => server.close());

const pool = (id: string) => server.get<PoolDetail>(`/pools/${id}`);
const get = <T>(path: string) => server.get<T>(path);
const rollout = (id: string) => server.get<Rollout>(`/rollouts/${id}`);

async function makePool(name: string, count: number, change: object = {}): Promise<string> {
  const body = server.newPool(first, {
    name,
    count,
    pattern: `W${name.slice(0, 4).toUpperCase()}-###`,
    ...change,
  });
  const { poolId, jobId } = await server.send<{ poolId: string; jobId: string }>('post', '/pools', body);
  expect((await server.untilEnded(jobId, 2_000)).state).toBe('done');
  return poolId;
}

function request(poolId: string, change: Partial<RolloutRequest> = {}): RolloutRequest {
  return {
    poolId,
    imageVersionId: second,
    packageVersionIds: [],
    window: { rule: 'FREQ=DAILY', start: '01:00', end: '02:15' },
    zone: 'Europe/Dublin',
    calendarIds: [],
    batch: 10,
    maxUnavailable: 10,
    drainLimitMinutes: 20,
    reserve: null,
    stop: null,
    notice: null,
    isRemake: false,
    onlyHosts: [],
    ...change,
  };
}

const desks = { site: 'yard-a', network: 'desks', datastore: 'standard' };
const at = (change: object) => ({ places: [{ ...desks, ...change }] });

describe('making a pool', () => {
  it('previews names, fit and everything that is missing', async () => {
    const preview = await server.send<PoolPreview>('post', '/pools/preview', {
      pattern: 'WCL-RO-##',
      start: 9,
      count: 2,
      clone: 'linked',
    });
    expect(preview.names).toEqual(['WCL-RO-09', 'WCL-RO-10']);
    expect(preview.faults.map((fault) => fault.path)).toContain('ou');
  });

  it.each([
    ['a pattern without a counter', { pattern: 'WCL-RO' }, 'pattern'],
    ['a pattern too long', { pattern: 'WRENFIELD-RECORDS-##' }, 'pattern'],
    ['a unit that does not exist', { ou: 'OU=Nowhere,DC=wrenfield,DC=example' }, 'ou'],
    ['a count over the quota', { count: 400, pattern: 'WCL-RO-###' }, 'count'],
    ['a retired or unknown version', { imageVersionId: 'nope' }, 'imageVersionId'],
    ['a site that does not exist', at({ site: 'yard-z' }), 'places.0.site'],
    ['a network that does not exist', at({ network: 'nowhere' }), 'places.0.network'],
    ['a datastore that does not exist', at({ parentDatastore: 'slow' }), 'places.0.parentDatastore'],
    ['a machine size that the site has not', { size: 'maps-10' }, 'size'],
    ['a unit that is no distinguished name', { ou: 'OU=Desks,,DC=x' }, 'ou'],
    ['a unit outside of the directory', { ou: 'OU=Desks,DC=elsewhere,DC=example' }, 'ou'],
    ['an account that nobody knows', { joinAccount: 'join-nobody' }, 'joinAccount'],
    ['a key that does not exist', { licence: 'nothing' }, 'licence'],
    ['a zone that does not exist', { zone: 'Europe/Nowhere' }, 'zone'],
    ['no count', { count: 0 }, 'count'],
    ['a count over all bounds', { count: 10_001, pattern: 'WCL-######' }, 'count'],
    ['more places without a number', { places: [desks, desks] }, 'places'],
  ])('%s is refused at its field; nothing is made', async (_what, change, path) => {
    const machines = (await server.app.estate.hypervisor.machineNames()).length;
    const { status, paths } = await server.refused('post', '/pools', server.newPool(first, change));
    expect([status, paths]).toEqual([422, [path]]);
    expect((await server.app.estate.hypervisor.machineNames()).length).toBe(machines);
    expect(await server.get('/pools')).toEqual([]);
  });

  it('a dedicated pool has one person a host, whatever else is said', async () => {
    const {
      sessionLimit,
      kind: _kind,
      ...body
    } = server.newPool(first, {
      name: 'own',
      pattern: 'WOWN-##',
      count: 1,
    }) as Record<string, unknown>;
    const dedicated = { ...body, kind: 'dedicated' };
    const refused = await server.refused('post', '/pools', { ...dedicated, sessionLimit });
    expect(refused.status).toBe(422);
    const preview = await server.send<PoolPreview>('post', '/pools/preview', dedicated);
    expect(preview.faults).toEqual([]);
    const withoutKind = await server.send<PoolPreview>('post', '/pools/preview', body);
    expect(withoutKind.faults.map((fault) => fault.path).sort()).toEqual(['kind', 'sessionLimit']);
  });

  it('offers the largest batch that fits', async () => {
    const { faults } = await server.refused(
      'post',
      '/pools',
      server.newPool(first, { count: 400, pattern: 'WCL-RO-###' }),
    );
    expect(faults[0]?.message).toMatch(
      /^400 do not fit: not enough cores on yard-a; the largest batch that fits is 319$/,
    );
  });

  it('a failure part way leaves a true ledger; go on makes the rest', async () => {
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'clone' });
    const body = server.newPool(first, { name: 'halfway', pattern: 'WCL-HW-##', count: 3 });
    const { poolId, jobId } = await server.send<{ poolId: string; jobId: string }>('post', '/pools', body);
    const failed = await server.untilEnded(jobId);
    expect(failed.state).toBe('failed');
    const ledger = await ledgerOf(get, jobId);
    const made = ledger
      .filter((row) => row.state === 'made' && row.object !== 'halfway')
      .map((row) => row.object);
    const machines = (await server.app.estate.hypervisor.machineNames()).filter((name) =>
      name.startsWith('WCL-HW'),
    );
    expect(new Set(made)).toEqual(new Set(machines));
    // The pool at the broker is made as well.
    expect(failed.ledger).toEqual({
      failed: 1,
      made: made.length + 1,
      planned: ledger.length - made.length - 2,
    });
    await server.send('post', `/jobs/${jobId}/go-on`);
    const done = await server.untilEnded(jobId);
    expect([done.state, done.ledger]).toEqual(['done', { made: ledger.length }]);
    expect((await hostsOf(get, poolId)).map((host) => host.name)).toEqual([
      'WCL-HW-01',
      'WCL-HW-02',
      'WCL-HW-03',
    ]);
  });

  it('names that are taken are refused, and the first is named', async () => {
    const { faults } = await server.refused(
      'post',
      '/pools',
      server.newPool(first, { name: 'other', pattern: 'WCL-HW-##' }),
    );
    expect(faults[0]).toEqual({
      path: 'pattern',
      message:
        'WCL-HW-01 and 2 more are taken; fill the gaps, begin after the last one or change the pattern',
    });
  });

  it('undo takes everything back', async () => {
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'register' });
    const body = server.newPool(first, { name: 'undone', pattern: 'WCL-UN-##', count: 2 });
    const { jobId } = await server.send<{ jobId: string }>('post', '/pools', body);
    expect((await server.untilEnded(jobId)).state).toBe('failed');
    const { jobId: undo } = await server.send<{ jobId: string }>('post', `/jobs/${jobId}/undo`);
    expect((await server.untilEnded(undo)).state).toBe('done');
    const left = [
      ...(await server.app.estate.hypervisor.machineNames()),
      ...(await server.app.estate.directory.computerNames()),
    ];
    expect(left.filter((name) => name.startsWith('WCL-UN'))).toEqual([]);
    expect((await server.get<JobDetail>(`/jobs/${jobId}`)).ledger.made).toBeUndefined();
  });
});

describe('a rollout over two nights', () => {
  let poolId: string;
  let rolloutId: string;

  beforeAll(async () => {
    poolId = await makePool('nights', 40);
  });

  it('is forecast to need two windows', async () => {
    const answer = await server.send<ForecastAnswer>('post', '/rollouts/forecast', request(poolId));
    expect(answer.hosts).toBe(40);
    expect(answer.windowsUsed.p50).toBe(2);
    // Four rounds of fourteen minutes, half of them longer, in seventy-five with their draining.
    expect(answer.finishesInFirstWindow).toBeLessThan(0.5);
    const others = await server.send<{ kind: string; batch: number }[]>(
      'post',
      '/rollouts/suggestions',
      request(poolId),
    );
    expect(others.find((row) => row.kind === 'smallest batch for one window')?.batch).toBeGreaterThan(10);
  });

  it('runs over two nights; killed in the middle it goes on; no host lost, none done twice', async () => {
    ({ id: rolloutId } = await server.send<{ id: string }>('post', '/rollouts', request(poolId)));
    expect(await rollout(rolloutId)).toMatchObject({ state: 'asleep', done: 0 });
    // To half past one in the first night, then the server is gone and comes back.
    const { nextWindow } = await rollout(rolloutId);
    await server.advance(((nextWindow?.start ?? 0) - server.now) / 60_000 + 30);
    expect(await rollout(rolloutId)).toMatchObject({ state: 'at work', atWork: 10 });
    await server.restart();
    await server.advance(60);
    const between = await rollout(rolloutId);
    expect([between.state, between.atWork]).toEqual(['asleep', 0]);
    expect(between.done).toBeGreaterThanOrEqual(10);
    expect(between.done).toBeLessThan(40);
    await server.advance(24 * 60);
    const ended = await rollout(rolloutId);
    expect(ended).toMatchObject({ state: 'done', done: 40, failed: 0, setAside: 0 });
    expect((await hostsOfRollout(get, rolloutId)).every((row) => row.attempts === 1)).toBe(true);
    const hosts = await hostsOf(get, poolId);
    expect(new Set(hosts.map((host) => `${host.state} ${host.blend} ${host.nextDye}`))).toEqual(
      new Set(['in service 2 null']),
    );
  });

  it('kept to its windows and its batch, and the journal agrees', async () => {
    const hostList = await hostsOfRollout(get, rolloutId);
    for (const row of hostList) {
      const hour = (at: number | null) =>
        new Date(at ?? 0).getUTCHours() + new Date(at ?? 0).getUTCMinutes() / 60;
      expect(hour(row.startedAt)).toBeGreaterThanOrEqual(1);
      expect(hour(row.startedAt)).toBeLessThan(2.25);
      const together = hostList.filter(
        (o) => (o.startedAt ?? 0) <= (row.startedAt ?? 0) && (o.finishedAt ?? 0) > (row.startedAt ?? 0),
      );
      expect(together.length).toBeLessThanOrEqual(10);
    }
    // A host starts when it is finished in time in 9 of 10 cases, so some may run over.
    const over = hostList.filter((row) => ((row.finishedAt ?? 0) / 60_000) % 1440 > 135);
    expect(over.length).toBeLessThanOrEqual(8);
    const { rows: journal, total } = await server.get<Page<JournalRow>>(
      '/journal?limit=500&q=back%20in%20service%20on%20blend%202',
    );
    expect(total).toBe(40);
    expect(new Set(journal.map((row) => row.text)).size).toBe(40);
  });

  it('goes back: all hosts run the earlier blend again', async () => {
    const { id } = await server.send<{ id: string }>('post', `/rollouts/${rolloutId}/go-back`, { batch: 20 });
    expect(await rollout(id)).toMatchObject({ isReturn: true, hosts: 40 });
    await server.advance(8 * 60);
    expect(await rollout(id)).toMatchObject({ state: 'done', done: 40 });
    expect(new Set((await hostsOf(get, poolId)).map((host) => host.blend))).toEqual(new Set([1]));
    expect((await pool(poolId)).blend?.number).toBe(1);
  });

  it('goes back in the middle of a rollout once the hosts at work are finished', async () => {
    const { id } = await server.send<{ id: string }>('post', '/rollouts', request(poolId));
    await server.advance((((await rollout(id)).nextWindow?.start ?? 0) - server.now) / 60_000 + 15);
    expect((await rollout(id)).atWork).toBe(10);
    expect(await server.send('post', `/rollouts/${id}/go-back`)).toEqual({ id });
    await server.advance(6 * 60);
    const list =
      await server.get<{ poolId: string; isReturn: boolean; state: string; hosts: number }[]>('/rollouts');
    expect(list.filter((row) => row.poolId === poolId)[0]).toMatchObject({
      isReturn: true,
      state: 'done',
      from: { number: 2 },
      to: { number: 1 },
    });
    const touched = (await hostsOfRollout(get, id)).filter((row) => row.stage === 'done').length;
    expect(list.filter((row) => row.poolId === poolId)[0]?.hosts).toBe(touched);
    expect(touched).toBeGreaterThanOrEqual(10);
    expect(new Set((await hostsOf(get, poolId)).map((host) => host.blend))).toEqual(new Set([1]));
  });
});

describe('a host that fails', () => {
  it('is tried once more by itself, then waits for a person; set aside, the rollout ends', async () => {
    const poolId = await makePool('silent', 3);
    const name = (await hostsOf(get, poolId))[1]?.name ?? '';
    await server.send('post', '/estate/faults', { kind: 'agent silent', target: name });
    const { id } = await server.send<{ id: string }>(
      'post',
      '/rollouts',
      request(poolId, { batch: 2, maxUnavailable: 2 }),
    );
    await server.advance(48 * 60);
    const stuck = await rollout(id);
    expect(stuck).toMatchObject({ done: 2, failed: 1, endedAt: null });
    const row = (await hostsOfRollout(get, id)).find((entry) => entry.stage === 'failed');
    expect(row).toMatchObject({ attempts: 2, host: { name, state: 'failed' } });
    expect(row?.error).toMatch('has been silent for 15 minutes');
    const { needs } = await server.get<Home>('/home');
    expect(needs[0]).toMatchObject({ tone: 'trouble', to: `/rollouts/${id}` });
    await server.send('post', `/rollouts/${id}/hosts/${row?.host.id}`, { action: 'set aside' });
    expect(await rollout(id)).toMatchObject({ state: 'done', setAside: 1 });
  });

  it('D20: is tried again before others are begun, so that it does not hold them up for ever', async () => {
    const poolId = await makePool('first', 4);
    // Of one that may be out at a time, the one that failed is out: were others first, none could be.
    for (let i = 0; i < 2; i++)
      await server.send('post', '/estate/faults', { kind: 'fail next', target: 'rebuild' });
    const { id } = await server.send<{ id: string }>(
      'post',
      '/rollouts',
      request(poolId, {
        batch: 1,
        maxUnavailable: 1,
        window: { rule: 'FREQ=DAILY', start: '00:00', end: '23:59' },
      }),
    );
    await server.advance(48 * 60);
    expect(await rollout(id)).toMatchObject({ failed: 1, endedAt: null });
    const failed = (await hostsOfRollout(get, id)).find((row) => row.stage === 'failed');
    expect(failed?.attempts).toBe(2);
    await server.send('post', `/rollouts/${id}/hosts/${failed?.host.id ?? ''}`, { action: 'retry' });
    await server.advance(24 * 60);
    expect(await rollout(id)).toMatchObject({ state: 'done', done: 4 });
  });

  it('can be tried again once the cause is gone', async () => {
    const poolId = await makePool('again', 1);
    const name = (await hostsOf(get, poolId))[0]?.name ?? '';
    const fault = await server.send<{ id: string }>('post', '/estate/faults', {
      kind: 'agent silent',
      target: name,
    });
    const { id } = await server.send<{ id: string }>(
      'post',
      '/rollouts',
      request(poolId, { batch: 1, maxUnavailable: 1 }),
    );
    await server.advance(54 * 60);
    const [row] = await hostsOfRollout(get, id);
    expect(row?.stage).toBe('failed');
    await server.send('delete', `/estate/faults/${fault.id}`);
    await server.send('post', `/rollouts/${id}/hosts/${row?.host.id}`, { action: 'retry' });
    await server.advance(30 * 60);
    expect(await rollout(id)).toMatchObject({ state: 'done', done: 1 });
  });
});

describe('bad rollouts', () => {
  let poolId: string;
  beforeAll(async () => {
    poolId = await makePool('baddy', 2);
  });
  it.each([
    ['a window of no length', { window: { rule: 'FREQ=DAILY', start: '01:00', end: '01:00' } }, 'window.end'],
    ['an unknown zone', { zone: 'Europe/Nowhere' }, 'zone'],
    ['a batch of zero', { batch: 0 }, 'batch'],
    ['a batch over the pool', { batch: 3 }, 'batch'],
    ['a version that is not there', { imageVersionId: 'nope' }, 'imageVersionId'],
    ['what runs already', { imageVersionId: 'FIRST' }, 'imageVersionId'],
    [
      'a rule that never happens',
      { window: { rule: 'FREQ=DAILY;UNTIL=20200101T000000Z', start: '01:00', end: '03:00' } },
      'window.rule',
    ],
  ])('%s is refused at its field', async (_what, change, path) => {
    const body = request(poolId, { batch: 1, maxUnavailable: 1, ...change } as Partial<RolloutRequest>);
    if (body.imageVersionId === 'FIRST') body.imageVersionId = first;
    const { status, paths } = await server.refused('post', '/rollouts', body);
    expect([status, paths]).toEqual([422, [path]]);
  });
  it('two rollouts on one pool at once are a conflict', async () => {
    const body = request(poolId, { batch: 1, maxUnavailable: 1 });
    const { id } = await server.send<{ id: string }>('post', '/rollouts', body);
    expect((await server.refused('post', '/rollouts', body)).status).toBe(409);
    await server.send('post', `/rollouts/${id}/stop`);
    expect(await rollout(id)).toMatchObject({ state: 'stopped', done: 0 });
    expect((await rollout(id)).endedAt).not.toBeNull();
  });
});

describe('access', () => {
  it('explains what a person gets before and after an assignment', async () => {
    const [poolRow] = await server.get<{ id: string; name: string }[]>('/pools');
    const groups = await server.get<{ name: string; users: number }[]>('/estate/groups');
    const account = await personLike(get, 'archivist');
    const see = () => server.get<SeeAs>(`/see-as?user=${account}`);
    expect((await see()).grants.filter((grant) => grant.given)).toEqual([]);
    await server.send('post', '/assignments', {
      group: 'Records and maps',
      poolId: poolRow?.id,
      target: { kind: 'desktop' },
    });
    const given = (await see()).grants.filter((grant) => grant.given);
    expect(given).toHaveLength(1);
    expect(given[0]?.chain.map((link) => link.text)).toEqual([
      `${account} is in Archivists, which is in Records and maps`,
      `Records and maps is assigned to the desktop of ${poolRow?.name}`,
    ]);
    expect(groups.find((group) => group.name === 'All staff')?.users).toBe(1900);
  });
  it.each([
    [{ group: 'Nobody' }, 'group'],
    [{ poolId: 'nope' }, 'poolId'],
    [{ packageId: 'nope' }, 'packageId'],
  ])('refuses %o at its field', async (change, path) => {
    const [poolRow] = await server.get<{ id: string }[]>('/pools');
    const body = { group: 'Office', poolId: poolRow?.id, target: { kind: 'desktop' }, ...change };
    expect((await server.refused('post', '/assignments', body)).paths).toEqual([path]);
  });
  it('refuses a person who is not there', async () => {
    expect((await server.refused('get', '/see-as?user=nobody')).paths).toEqual(['user']);
  });
});

describe('a rollout that is stopped', () => {
  it('finishes the hosts at work, starts no more, and leaves the rest and the pool as they were', async () => {
    const poolId = await makePool('stopped', 6);
    const { id } = await server.send<{ id: string }>(
      'post',
      '/rollouts',
      request(poolId, { batch: 2, maxUnavailable: 2 }),
    );
    const { nextWindow } = await rollout(id);
    await server.advance(((nextWindow?.start ?? 0) - server.now) / 60_000 + 5);
    expect(await rollout(id)).toMatchObject({ state: 'at work', atWork: 2, done: 0 });
    await server.send('post', `/rollouts/${id}/stop`);
    expect(await rollout(id)).toMatchObject({ state: 'stopped', atWork: 2, endedAt: null, expectedAt: null });
    await server.advance(120);
    expect(await rollout(id)).toMatchObject({ state: 'stopped', atWork: 0, done: 2 });
    const hosts = await hostsOf(get, poolId);
    expect(hosts.map((host) => [host.state, host.blend, host.nextDye]).sort()).toEqual([
      ...Array<unknown>(4).fill(['in service', 1, null]),
      ...Array<unknown>(2).fill(['in service', 2, null]),
    ]);
    expect((await pool(poolId)).blend?.number).toBe(1);
    const again = await server.refused('post', `/rollouts/${id}/stop`);
    expect([again.status, again.detail]).toEqual([409, 'This rollout has ended already']);
  });

  it('that has not begun ends at once', async () => {
    const poolId = await makePool('unbegun', 2);
    const two = request(poolId, { batch: 2, maxUnavailable: 2 });
    const { id } = await server.send<{ id: string }>('post', '/rollouts', two);
    await server.send('post', `/rollouts/${id}/stop`);
    const ended = await rollout(id);
    expect([ended.state, ended.done, ended.endedAt]).toEqual(['stopped', 0, server.now]);
    // And another one may begin.
    await server.send('post', '/rollouts', two);
  });

  it('has no host that could be tried again', async () => {
    const poolId = await makePool('sound', 1);
    const one = request(poolId, { batch: 1, maxUnavailable: 1 });
    const { id } = await server.send<{ id: string }>('post', '/rollouts', one);
    const [row] = await hostsOfRollout(get, id);
    for (const [action, why] of [['retry', 'This host has not failed']])
      expect(
        await server.refused('post', `/rollouts/${id}/hosts/${row?.host.id ?? ''}`, { action }),
      ).toMatchObject({ status: 409, detail: why });
  });
});

describe('a rollout that is stopped now', () => {
  it('lets hosts go back from which people have yet to leave, as they were, and finishes the others', async () => {
    // On a working day, with people on every host: some leave sooner than others.
    const poolId = await makePool('people', 6);
    const { id } = await server.send<{ id: string }>(
      'post',
      '/rollouts',
      request(poolId, {
        batch: 6,
        maxUnavailable: 6,
        drainLimitMinutes: 240,
        window: { rule: 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', start: '10:00', end: '18:30' },
        zone: 'UTC',
      }),
    );
    let morning = (Math.floor(server.now / DAY) + 1) * DAY + 9 * 3_600_000;
    while ([0, 6].includes(new Date(morning).getUTCDay())) morning += DAY;
    await server.advance((morning - server.now) / 60_000);
    await server.advance(62);
    const stages = async () => (await hostsOfRollout(get, id)).map(({ stage }) => stage);
    const before = await stages();
    const draining = before.filter((stage) => stage === 'draining').length;
    expect(draining, before.join()).toBeGreaterThan(0);
    const after = await server.send('post', `/rollouts/${id}/stop`, { letsGo: true }).then(stages);
    expect(after).not.toContain('draining');
    const names = (await hostsOfRollout(get, id)).filter((_row, i) => before[i] === 'draining');
    expect(names.map(({ host, attempts }) => [host.state, attempts])).toEqual(
      names.map(() => ['in service', 0]),
    );
    await server.advance(12 * 60);
    const ended = await rollout(id);
    expect([ended.state, ended.endedAt === null]).toEqual(['stopped', false]);
    // Nobody was signed out of them later, by an operation that was still under way.
    expect((await stages()).filter((stage) => stage !== 'waiting' && stage !== 'done')).toEqual([]);
  });
});

describe('the turn of a host', () => {
  const began = async (id: string) =>
    (await hostsOfRollout(get, id))
      .filter(({ startedAt }) => startedAt !== null)
      .sort((a, b) => (a.startedAt ?? 0) - (b.startedAt ?? 0))
      .map(({ host }) => host.name);

  it('is the next or the last as somebody decided, and one that is left out is not touched', async () => {
    const poolId = await makePool('turns', 4);
    const { id } = await server.send<{ id: string }>(
      'post',
      '/rollouts',
      request(poolId, { batch: 1, maxUnavailable: 1, stop: { failures: 1, share: null, after: 0 } }),
    );
    const [a, b, c, d] = (await hostsOfRollout(get, id)).map(({ host }) => host);
    const decide = (host: typeof a, action: string) =>
      server.send('post', `/rollouts/${id}/hosts/${host?.id ?? ''}`, { action });
    await decide(d, 'first');
    await decide(a, 'last');
    await decide(c, 'set aside');
    await server.advance(48 * 60);
    // One that was left out before its turn is no failure, and pauses nothing.
    expect(await rollout(id)).toMatchObject({ state: 'done', done: 3, setAside: 1 });
    expect(await began(id)).toEqual([d?.name, b?.name, a?.name]);
    const left = (await hostsOf(get, poolId)).find(({ name }) => name === c?.name);
    expect([left?.blend, left?.state]).toEqual([1, 'in service']);
    const refused = await server.refused('post', `/rollouts/${id}/hosts/${a?.id ?? ''}`, { action: 'first' });
    expect([refused.status, refused.detail]).toEqual([409, 'This rollout has ended already']);
  });
});

describe('seats that are kept for people', () => {
  it('hold hosts back by day, and let them go by themselves as people leave', async () => {
    const poolId = await makePool('seats', 4);
    const tomorrow = (Math.floor(server.now / DAY) + 1) * DAY;
    await server.advance((tomorrow - server.now) / 60_000);
    const { id } = await server.send<{ id: string }>(
      'post',
      '/rollouts',
      // Twice the seats that are expected: with four hosts, not one can be spared in office hours.
      request(poolId, {
        window: { rule: 'FREQ=DAILY', start: '10:00', end: '23:00' },
        batch: 4,
        maxUnavailable: 4,
        reserve: 1,
      }),
    );
    await server.advance(12 * 60);
    expect(await rollout(id)).toMatchObject({ state: 'at work', atWork: 0, done: 0, failed: 0 });
    // Nothing ends and nobody clicks: it looks again every quarter of an hour.
    await server.advance(6 * 60 + 30);
    const evening = await rollout(id);
    expect(evening.atWork + evening.done).toBeGreaterThan(0);
    const starts = (await hostsOfRollout(get, id)).flatMap((row) => row.startedAt ?? []);
    // 20 seats, 15 with one host out; expected are 9 people at four and 6 at five o'clock there, 7.5 and
    // twice as many seats at half past four.
    expect(wallClock('Europe/Dublin', Math.min(...starts)).minutes).toBe(16 * 60 + 30);
    await server.advance(4 * 60);
    expect(await rollout(id)).toMatchObject({ state: 'done', done: 4 });
  });
});
