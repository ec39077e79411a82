/** Blends of the demo: who runs what, what is another, and packages that change while people work on. */
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { BlendComparison, BlendUse, PoolBlend, BlendCheck } from '@vatline/contract/blends';
import type { Page } from '@vatline/contract/page';
import type { Promises } from '@vatline/contract/promises';
import type { Host, HostMounts } from '@vatline/contract/pool/host';
import type { RolloutRecord } from '@vatline/contract/rollout-record';
import type { ForecastAnswer, Rollout, RolloutRequest } from '@vatline/contract/rollout';
import { windowFromNow } from '@vatline/core/rollout/window-from-now';
import { TestServer } from './harness.ts';
import { hostsOf, hostsOfRollout, nightlyRollout, packagesOf } from './usual-requests.ts';

let server: TestServer;
let pools: BlendUse[];
beforeAll(async () => {
  server = await TestServer.open({ demo: true });
  pools = await server.get<BlendUse[]>('/blends');
});
afterAll(() => server.close());

const get = <T>(path: string) => server.getAnew<T>(path);
const useOf = (name: string) => pools.find((one) => one.pool === name) as BlendUse;
const blendsOf = async (poolId: string) => (await get<Page<PoolBlend>>(`/pools/${poolId}/blends`)).rows;

describe('who runs what', () => {
  it('counts the hosts of a pool between two blends', () => {
    const { current, next, running, hosts } = useOf('contact-centre');
    expect([hosts, current?.number, next?.number]).toEqual([40, 2, 3]);
    expect(running.map(({ blend, hosts: n }) => [blend.number, n])).toEqual([
      [2, 22],
      [3, 18],
    ]);
  });

  it('lists the blends of a pool with what each brought, and what hosts need to hold it', async () => {
    const rows = await blendsOf(useOf('contact-centre').poolId);
    expect(
      rows.map(({ blend, change, hosts, needs }) => [blend.number, change, hosts, needs.rebuild]),
    ).toEqual([
      [3, 'Staff multi-session 13 to 14', 18, 22],
      [2, 'Staff multi-session 12 to 13', 22, 18],
      [1, null, 0, 40],
    ]);
    expect(rows.map((row) => row.refusal)).toEqual([null, null, 'version 12 is retired']);
  });

  it('page by page: each knows the one before it, also where that is on the next page', async () => {
    const { poolId } = useOf('contact-centre');
    const first = await get<Page<PoolBlend>>(`/pools/${poolId}/blends?limit=2`);
    expect([first.total, first.rows.map((row) => row.change)]).toEqual([
      3,
      ['Staff multi-session 13 to 14', 'Staff multi-session 12 to 13'],
    ]);
    const second = await get<Page<PoolBlend>>(`/pools/${poolId}/blends?limit=2&after=${first.next ?? ''}`);
    expect([second.rows.map(({ blend }) => blend.number), second.next]).toEqual([[1], null]);
  });
});

describe('two blends', () => {
  it('of other images: a rebuild, with the minutes of this kind of clone', async () => {
    const [third, second] = await blendsOf(useOf('contact-centre').poolId);
    const found = await get<BlendComparison>(
      `/blends/${third?.blend.id ?? ''}/comparison?with=${second?.blend.id ?? ''}`,
    );
    expect(found).toMatchObject({ headline: 'Staff multi-session 13 to 14', need: 'rebuild', packages: [] });
    expect(found.work?.medianMinutes).toBeGreaterThan(10);
    expect([found.image?.from.number, found.image?.to.number]).toEqual([13, 14]);
  });

  it('that are the same: nothing to do, and no minutes', async () => {
    const [own] = await blendsOf(useOf('map-lab').poolId);
    const id = own?.blend.id ?? '';
    expect(await get<BlendComparison>(`/blends/${id}/comparison?with=${id}`)).toMatchObject({
      headline: 'exactly the same',
      work: null,
    });
  });

  it('of which one is not there are refused', async () => {
    const [own] = await blendsOf(useOf('map-lab').poolId);
    expect(
      (await server.refused('get', `/blends/${own?.blend.id ?? ''}/comparison?with=no-such`)).status,
    ).toBe(404);
  });
});

const contentsOf = ({ poolId, current }: BlendUse) => ({
  poolId,
  imageVersionId: current?.imageVersionId ?? '',
  packageVersionIds: current?.packages.map(({ id }) => id) ?? [],
});

/** A rollout that begins at once, and leaves out one of the packages. */
function withoutOne(use: BlendUse, change: Partial<RolloutRequest> = {}): RolloutRequest {
  const { packageVersionIds, ...contents } = contentsOf(use);
  return {
    ...nightlyRollout(use.poolId, contents.imageVersionId, change.onlyHosts?.length ?? use.hosts),
    window: windowFromNow('Europe/Dublin', server.now),
    packageVersionIds: packageVersionIds.slice(0, -1),
    ...change,
  };
}

describe('checks', () => {
  const check = (body: object) => server.send<{ checks: BlendCheck[] }>('post', '/blends/checks', body);
  const worst = async (body: object) => (await check(body)).checks[0];

  it('hold for what runs', async () => {
    const { checks } = await check(contentsOf(useOf('pilot-bench')));
    expect(checks.filter(({ verdict }) => verdict === 'fails')).toEqual([]);
  });

  it('ask for the instant: in three years no certificate holds, and a rollout then is refused likewise', async () => {
    const found = await worst({ ...contentsOf(useOf('pilot-bench')), at: server.now + 3 * 365 * 86_400_000 });
    expect(found).toMatchObject({ verdict: 'fails', path: 'packageVersionIds.0' });
    expect(found?.says).toMatch(/certificate that runs out on/);
  });

  it('say what is lacking, and the rollout is refused for the same', async () => {
    const needing = (await packagesOf(get))
      .flatMap((row) => row.versions)
      .find((row) => row.state === 'live' && (row.details.dependencies ?? []).length > 0);
    expect(needing).toBeDefined();
    const { poolId, imageVersionId } = contentsOf(useOf('map-lab'));
    const body = { poolId, imageVersionId, packageVersionIds: [needing?.id ?? ''] };
    const found = await worst(body);
    expect(found?.verdict).toBe('fails');
    const problem = await server.refused('post', '/rollouts', {
      ...nightlyRollout(poolId, imageVersionId, 1),
      ...body,
    });
    expect(problem.faults).toContainEqual({ path: 'packageVersionIds.0', message: found?.says });
  });

  it('name versions that there are not', async () => {
    const body = { ...contentsOf(useOf('map-lab')), packageVersionIds: ['gone'] };
    expect((await server.refused('post', '/blends/checks', body)).paths).toEqual(['packageVersionIds.0']);
  });
});

const sessionsOf = (hosts: readonly Host[]) => hosts.reduce((sum, host) => sum + host.sessions, 0);
const mountsOf = (name: string) => get<HostMounts>(`/hosts/${name}/mounts`);

describe('packages that change while people work on', () => {
  let id: string;
  let left: string;
  const use = () => useOf('reading-rooms');
  const hosts = () => hostsOf(get, use().poolId);

  it('is forecast within two checks, and takes no seat', async () => {
    left = use().current?.packages.at(-1)?.id ?? '';
    await server.advance(120);
    const answer = await server.send<ForecastAnswer>('post', '/rollouts/forecast', withoutOne(use()));
    const all = use().hosts;
    expect(answer.ways).toEqual({ rebuild: 0, attach: 0, 'attach in service': all });
    const [p10, p90] = [answer.finish.p10, answer.finish.p90].map((at) => ((at ?? 0) - server.now) / 60_000);
    expect(p10).toBeGreaterThan(9);
    expect(p10).toBeLessThanOrEqual(11);
    // One of sixty that fails is asked again, for as long.
    expect(p90).toBeLessThanOrEqual(21);
    expect(answer.checks.everyMinutes).toBe(5);
  });

  it('leaves every host in service while its agent looks', async () => {
    const before = sessionsOf(await hosts());
    expect(before).toBeGreaterThan(0);
    ({ id } = await server.send<{ id: string }>('post', '/rollouts', withoutOne(use())));
    const during = await hosts();
    expect(during.every((host) => host.state === 'in service')).toBe(true);
    expect(sessionsOf(during)).toBe(before);
    const entries = await hostsOfRollout(get, id);
    for (const entry of entries) {
      expect([entry.way, entry.stage]).toEqual(['attach in service', 'attaching']);
      const wait = ((entry.looksAt ?? 0) - server.now) / 60_000;
      expect(wait).toBeGreaterThan(0);
      expect(wait).toBeLessThanOrEqual(5);
    }
  });

  it('goes on where it was after the server has ended in the middle', async () => {
    await server.advance(4);
    await server.restart({ demo: true });
    expect((await get<Rollout>(`/rollouts/${id}`)).endedAt).toBeNull();
  });

  it('is done after two checks; who was there keeps the old package, and nobody else gets it', async () => {
    await server.advance(7);
    const rollout = await get<Rollout>(`/rollouts/${id}`);
    expect([rollout.state, rollout.done]).toEqual(['done', use().hosts]);
    const held = (await hostsOfRollout(get, id)).filter((entry) => entry.heldSessions > 0);
    expect(held.length).toBeGreaterThan(0);
    const { mounts, missing } = await mountsOf(held[0]?.host.name ?? '');
    const old = mounts.find((mount) => mount.version?.id === left);
    expect([old?.isWanted, old?.heldBy, missing]).toEqual([false, held[0]?.heldSessions, []]);
    expect(mounts.filter((mount) => mount.heldBy === null).length).toBe(
      (use().current?.packages.length ?? 0) - 1,
    );
  });

  it('what sessions hold is needed, and says so', async () => {
    const version = (await packagesOf(get)).flatMap((row) => row.versions).find((row) => row.id === left);
    expect(version?.neededBy.some((why) => /^sessions on \d+ hosts? still hold it$/.test(why))).toBe(true);
  });

  it('goes when the last of them has ended', async () => {
    await server.advance(2 * 24 * 60);
    const entries = await hostsOfRollout(get, id);
    expect(entries.filter((entry) => entry.heldSessions > 0)).toEqual([]);
    const { mounts } = await mountsOf(entries[0]?.host.name ?? '');
    expect(mounts.map((mount) => mount.version?.id)).not.toContain(left);
  });

  it('learns nothing from it of how long hosts take to be made', async () => {
    const [own] = await blendsOf(use().poolId);
    const [, before] = await blendsOf(use().poolId);
    const found = await get<BlendComparison>(
      `/blends/${own?.blend.id ?? ''}/comparison?with=${before?.blend.id ?? ''}`,
    );
    expect([found.need, found.packages.map((row) => row.change)]).toEqual(['attach only', ['removed']]);
    expect(found.work).toMatchObject({ learnedFrom: 0 });
  });
});

describe('an agent that does not look', () => {
  const use = () => useOf('digitisation');

  it('leaves its host in service with what it had, and is asked again', async () => {
    const [first] = await hostsOf(get, use().poolId);
    const name = first?.name ?? '';
    await server.send('post', '/estate/faults', { kind: 'agent silent', target: name });
    const { id } = await server.send<{ id: string }>(
      'post',
      '/rollouts',
      withoutOne(use(), { onlyHosts: [name] }),
    );
    await server.advance(16);
    const [again] = await hostsOfRollout(get, id);
    expect([again?.attempts, again?.stage, again?.host.state]).toEqual([2, 'attaching', 'in service']);
    await server.advance(16);
    const [failed] = await hostsOfRollout(get, id);
    expect([failed?.stage, failed?.host.state, failed?.host.blend]).toEqual([
      'failed',
      'in service',
      use().current?.number,
    ]);
    expect(failed?.error).toMatch(/silent for 15 minutes/);
    const faults = await get<{ faults: { id: string; target: string }[] }>('/estate');
    const fault = faults.faults.find((one) => one.target === name);
    await server.send('delete', `/estate/faults/${fault?.id ?? ''}`);
    await server.send('post', `/rollouts/${id}/hosts/${failed?.host.id ?? ''}`, { action: 'retry' });
    await server.advance(11);
    expect((await get<Rollout>(`/rollouts/${id}`)).state).toBe('done');
  });
});

describe('a host that somebody switches off at the hypervisor before its agent looks', () => {
  it('fails that attempt, is switched on, and attached', async () => {
    const use = useOf('map-lab');
    const { id } = await server.send<{ id: string }>('post', '/rollouts', withoutOne(use));
    await server.advance(1);
    const [last] = (await hostsOfRollout(get, id)).toSorted((a, b) => (b.looksAt ?? 0) - (a.looksAt ?? 0));
    const name = last?.host.name ?? '';
    const [machine] = server.outside<{ id: string }>('select id from machine where name = ?', name);
    await server.app.estate.hypervisor.power('by hand', machine?.id ?? '', 'off');
    await server.advance(30);
    const entry = (await hostsOfRollout(get, id)).find((one) => one.host.name === name);
    expect([entry?.attempts, entry?.way, entry?.stage]).toEqual([2, 'attach in service', 'done']);
    const { rows } = await get<Page<{ text: string }>>('/journal?limit=200');
    expect(rows.map((row) => row.text).join()).toMatch(`${name} failed`);
    expect(server.outside('select power from machine where name = ?', name)).toEqual([{ power: 'on' }]);
  });
});

describe('promises', () => {
  it('stand beside what came of them, but for rollouts that somebody stopped or changed on the way', async () => {
    const use = useOf('pilot-bench');
    const { id } = await server.send<{ id: string }>(
      'post',
      '/rollouts',
      withoutOne(use, { onlyHosts: ['WCL-PB-01'] }),
    );
    await server.send('post', `/rollouts/${id}/pause`, { why: 'to look at it' });
    await server.send('post', `/rollouts/${id}/go-on`);
    await server.advance(30);
    const rollouts = await get<Rollout[]>('/rollouts');
    const over = rollouts.filter((one) => one.state === 'done');
    expect(over.map((one) => one.id)).toContain(id);
    const { kept, leftOut, calibration } = await get<Promises>('/rollout-promises');
    // The last hosts of a failed agent and of one that was switched off came late, and count.
    expect(kept.length + leftOut).toBeGreaterThanOrEqual(over.length);
    expect(kept.map((one) => one.id)).not.toContain(id);
    expect(calibration.rollouts).toBe(kept.length);
    for (const one of kept) {
      const row = rollouts.find((other) => other.id === one.id);
      expect([one.promised.p90, one.endedAt]).toEqual([row?.promisedAt, row?.endedAt]);
      expect(one.promised.p10).toBeLessThanOrEqual(one.promised.p50);
      expect(one.promised.p50).toBeLessThanOrEqual(one.promised.p90);
    }
  });
});

describe('the record of a rollout', () => {
  it('has plan, promise, changes with their reasons, approvals, and every host', async () => {
    const rollouts = await get<Rollout[]>('/rollouts');
    const own = rollouts.find((one) => one.pool === 'pilot-bench');
    const { revisions, promised, approvals, figures, hosts } = await get<RolloutRecord>(
      `/rollouts/${own?.id ?? ''}/record`,
    );
    expect(revisions.map(({ says, why }) => [says, why])).toEqual([
      ['goes on', ''],
      ['paused', 'to look at it'],
      ['', ''],
    ]);
    expect(promised.p90).toBe(own?.promisedAt);
    expect([figures.done, figures.untouched, figures.slowest?.name]).toEqual([1, 0, 'WCL-PB-01']);
    expect(hosts.map(({ name, way, stage }) => [name, way, stage])).toEqual([
      ['WCL-PB-01', 'attach in service', 'done'],
    ]);
    expect(approvals).toEqual([]);
  });

  it('says who approved the version', async () => {
    const [desk] = (await get<Rollout[]>('/rollouts')).filter((one) => one.pool === 'desk-staff');
    await server.send('put', '/caller', { role: 'approver' });
    await server.send('patch', `/versions/${desk?.to.imageVersionId ?? ''}`, {
      state: 'approved',
      note: 'tried for a week',
    });
    const { approvals } = await get<RolloutRecord>(`/rollouts/${desk?.id ?? ''}/record`);
    expect(approvals).toMatchObject([
      { what: 'Staff multi-session 15 approved', by: 'approver', why: 'tried for a week' },
    ]);
  });

  it('is a file as well', async () => {
    const [own] = (await get<Rollout[]>('/rollouts')).filter((one) => one.pool === 'pilot-bench');
    const { text } = await request(server.app.http)
      .get(`/api/v1/rollouts/${own?.id ?? ''}/record.csv`)
      .expect(200);
    expect(text.split('\r\n')[0]).toBe('host,way,came to,attempts,begun,done,minutes,failed with');
    expect(text.split('\r\n')[1]).toMatch(/^WCL-PB-01,attach in service,done,1,2027-/);
  });
});
