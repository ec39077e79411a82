/** Rollouts that come again: in every window what the rule says, over restarts, and told where nothing came of it. */
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Ahead } from '@vatline/contract/ahead';
import type { Home } from '@vatline/contract/home';
import type { Planned } from '@vatline/contract/planned';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Recurring } from '@vatline/contract/recurring';
import type { Plan, Rollout } from '@vatline/contract/rollout';
import { TestServer } from './harness.ts';

const DAY = 1_440;
let server: TestServer;
let poolId = '';
let lineId = '';
beforeAll(async () => {
  server = await TestServer.open();
  const made = await server.makeVersion();
  ({ lineId } = made);
  await server.run('/pools', server.newPool(made.versionId, { count: 2 }));
  poolId = (await server.get<PoolSummary[]>('/pools'))[0]?.id ?? '';
  await server.buildAndCutAgain(lineId);
}, 90_000);
afterAll(() => server.close());

const plan: Plan = {
  window: { rule: 'FREQ=DAILY', start: '01:00', end: '03:00' },
  zone: 'UTC',
  calendarIds: [],
  batch: 2,
  maxUnavailable: 2,
  drainLimitMinutes: 0,
  reserve: null,
  stop: null,
  notice: null,
};
const keep = (takes: string, basedOn: number, change: Partial<Plan> = {}) =>
  server.send<{ revision: number }>('put', `/pools/${poolId}/recurring-rollout`, {
    takes,
    plan: { ...plan, ...change },
    basedOn,
  });
const kept = async () => (await server.getAnew<Recurring[]>('/recurring-rollouts'))[0];
const rollouts = () => server.getAnew<Rollout[]>('/rollouts');
const approve = async (number: number) => {
  const line = await server.getAnew<{ versions: { id: string; number: number }[] }>(`/lines/${lineId}`);
  const id = line.versions.find((one) => one.number === number)?.id ?? '';
  await server.send('put', '/caller', { role: 'approver' });
  await server.send('patch', `/versions/${id}`, { state: 'approved' });
  await server.send('put', '/caller', { role: 'engineer' });
};

describe('a rollout that comes again', () => {
  it('begins nothing while nothing is approved, and says so before and after', async () => {
    expect(await keep('newest approved', 0)).toEqual({ revision: 1 });
    expect(await kept()).toMatchObject({
      pool: 'records',
      by: 'engineer',
      brings: null,
      why: 'no version of its line is approved',
      last: null,
    });
    await server.advance(DAY);
    expect((await kept())?.last).toMatchObject({
      outcome: 'began nothing: no version of its line is approved',
      isRefused: false,
      rolloutId: null,
    });
    expect(await rollouts()).toEqual([]);
  });

  it('brings whatever is approved by then, at the very beginning of its window, also after a restart', async () => {
    await approve(2);
    expect((await kept())?.brings).toMatchObject({ number: 2, isRemake: false });
    const { planned } = await server.getAnew<{ planned: Planned[] }>(
      `/planned?from=${server.now}&to=${server.now + 7 * DAY * 60_000}`,
    );
    expect(planned.map(({ label, version, moves }) => [label, version?.number, moves])).toEqual([
      ['records, again', 2, null],
    ]);
    const { pools } = await server.getAnew<Ahead>(
      `/ahead?of=pool&who=${poolId}&at=${server.now + 2 * DAY * 60_000}`,
    );
    expect(pools[0]).toMatchObject({ then: { number: 2 }, changes: [{ standing: 'done', hosts: 2 }] });
    const at = (await kept())?.next[0]?.start ?? 0;
    await server.restart();
    await server.advance(DAY);
    const [rollout] = await rollouts();
    expect(rollout).toMatchObject({ state: 'done', done: 2, startedAt: at, to: { imageNumber: 2 } });
    expect((await kept())?.last).toEqual({
      at,
      outcome: 'brought version 2',
      isRefused: false,
      rolloutId: rollout?.id,
    });
    // What is there is not brought again.
    await server.advance(DAY);
    expect((await kept())?.last?.outcome).toBe(
      'began nothing: version 2 is the newest that is approved, and the pool runs 2',
    );
    expect(await rollouts()).toHaveLength(1);
  });

  it('makes hosts anew, every second night where its rule says so, whatever was seen in between', async () => {
    const late = await server.refused('put', `/pools/${poolId}/recurring-rollout`, {
      takes: 'made anew',
      plan,
      basedOn: 0,
    });
    expect(late.status).toBe(409);
    await keep('made anew', 1, { window: { ...plan.window, rule: 'FREQ=DAILY;INTERVAL=2' } });
    const { planned } = await server.getAnew<{ planned: Planned[] }>(
      `/planned?from=${server.now}&to=${server.now + 9 * DAY * 60_000}`,
    );
    expect(planned.map(({ label }) => label)).toEqual(Array(planned.length).fill('records, again'));
    expect([4, 5]).toContain(planned.length);
    const starts = (await kept())?.next.map(({ start }) => start) ?? [];
    expect([starts[1], starts[2]]).toEqual([
      (starts[0] ?? 0) + 2 * DAY * 60_000,
      (starts[0] ?? 0) + 4 * DAY * 60_000,
    ]);
    await server.advance(3 * DAY);
    await server.restart();
    await server.advance(2 * DAY);
    const remade = (await rollouts()).filter(({ from, to }) => from.id === to.id);
    expect(remade.map(({ startedAt }) => startedAt).sort()).toEqual(starts.filter((at) => at <= server.now));
    expect(remade.every(({ state, done }) => state === 'done' && done === 2)).toBe(true);
  });

  it('that is refused is told at home, and comes again at the next window', async () => {
    const made = (atOnce: number) => {
      const estate = new Sqlite(join(server.folder, 'estate.sqlite'));
      estate.prepare('update site set makes_at_once = ?').run(atOnce);
      estate.close();
    };
    await keep('made anew', 2);
    made(0);
    await server.advance(DAY);
    expect((await kept())?.last).toMatchObject({ isRefused: true, rolloutId: null });
    const need = async () =>
      (await server.getAnew<Home>('/home')).needs.find(({ id }) => id === `recurring-${poolId}`);
    expect(await need()).toMatchObject({
      title: 'The rollout of records that comes again did not begin',
      detail: expect.stringContaining('yard-a makes no machines now') as string,
    });
    made(48);
    await server.advance(DAY);
    expect((await kept())?.last).toMatchObject({ isRefused: false, outcome: 'made hosts anew' });
    expect(await need()).toBeUndefined();
  });

  it('is refused with a window that never is, at its field', async () => {
    const never = { ...plan, window: { ...plan.window, end: '01:00' }, batch: 0 };
    const { paths } = await server.refused('put', `/pools/${poolId}/recurring-rollout`, {
      takes: 'made anew',
      plan: never,
      basedOn: 3,
    });
    expect(paths.sort()).toEqual(['plan.batch', 'plan.window.end']);
  });

  it('comes no more once it is dropped', async () => {
    const before = (await rollouts()).length;
    await server.send('delete', `/pools/${poolId}/recurring-rollout`);
    expect(await kept()).toBeUndefined();
    await server.advance(2 * DAY);
    expect(await rollouts()).toHaveLength(before);
    expect((await server.refused('delete', `/pools/${poolId}/recurring-rollout`)).status).toBe(404);
  });
});
