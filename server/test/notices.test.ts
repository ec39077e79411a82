/** What people are told of a rollout: once before each window, once as their host drains, over restarts and faults. */
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Rollout } from '@vatline/contract/rollout';
import { TestServer } from './harness.ts';
import { nightlyRollout } from './usual-requests.ts';

const TEXT = 'Renewed in {minutes} minutes.';
let server: TestServer;
let poolId = '';
const versions: string[] = [];
beforeAll(async () => {
  server = await TestServer.open();
  const { lineId, versionId } = await server.makeVersion();
  await server.buildAndCutAgain(lineId);
  const line = await server.get<{ versions: { id: string }[] }>(`/lines/${lineId}`);
  versions.push(versionId, line.versions[0]?.id ?? '');
  // By that name the practice estate has people at noon.
  const body = server.newPool(versionId, { name: 'desk-staff', count: 6, sessionLimit: 12 });
  await server.run('/pools', body);
  poolId = (await server.get<PoolSummary[]>('/pools'))[0]?.id ?? '';
}, 90_000);
afterAll(() => server.close());

interface Told {
  readonly host: string;
  readonly text: string;
  readonly at: number;
}
const told = () =>
  server.outside<Told>(
    'select host, text, at_ms as at from message where text like ? order by rowid',
    'Renewed%',
  );
const request = (to: number, change: object = {}) => ({
  ...nightlyRollout(poolId, versions[to], 2),
  window: { rule: 'FREQ=DAILY', start: '12:00', end: '14:00' },
  notice: { text: TEXT, minutesBefore: 15 },
  ...change,
});
const notes = () => {
  const own = new Sqlite(join(server.folder, 'vatline.sqlite'), { readonly: true });
  const rows = own.prepare(`select text from journal where text like '%told of it'`).all() as {
    text: string;
  }[];
  own.close();
  return rows.map(({ text }) => text);
};

describe('people on hosts that wait', () => {
  let id = '';

  it('are told a quarter of an hour before the window, once, whatever restarts', async () => {
    ({ id } = await server.send<{ id: string }>('post', '/rollouts', request(1)));
    const { nextWindow } = await server.get<Rollout>(`/rollouts/${id}`);
    const start = nextWindow?.start ?? 0;
    await server.advance((start - server.now) / 60_000 - 16);
    expect(told()).toEqual([]);
    await server.restart();
    await server.advance(2);
    const before = told();
    expect(before.map(({ text, at }) => [text, at])).toEqual(
      before.map(() => ['Renewed in 15 minutes.', start - 15 * 60_000]),
    );
    expect(before.length).toBeGreaterThan(0);
    expect(new Set(before.map(({ host }) => host)).size).toBe(before.length);
    expect(notes()).toEqual([
      expect.stringMatching(
        new RegExp(`^desk-staff: \\d+ people on ${before.length} hosts were told of it$`),
      ),
    ]);
    await server.restart();
    await server.advance(10);
    expect(told()).toHaveLength(before.length);
  });

  it('are told again as theirs begins to drain, with the time that they have then', async () => {
    const before = told().length;
    await server.advance(8);
    const draining = told().slice(before);
    expect(draining.map(({ text }) => text)).toEqual(draining.map(() => 'Renewed in 30 minutes.'));
    expect(draining.length).toBeGreaterThan(0);
    await server.restart();
    await server.advance(3 * 1_440);
    expect((await server.getAnew<Rollout>(`/rollouts/${id}`)).state).toBe('done');
    // Each host once, whatever it was taken up again for.
    const hosts = told()
      .slice(before)
      .filter(({ text }) => text.includes('30'))
      .map(({ host }) => host);
    expect(new Set(hosts).size).toBe(hosts.length);
  });
});

describe('a notice', () => {
  it('that says something nobody knows is refused at its field', async () => {
    const { faults } = await server.refused(
      'post',
      '/rollouts/forecast',
      request(0, { notice: { text: 'in {hours} hours', minutesBefore: 0 } }),
    );
    expect(faults).toEqual([
      { path: 'notice.text', message: '{hours} stands for nothing; {minutes} is how long there is' },
    ]);
    for (const notice of [
      { text: ' ', minutesBefore: 0 },
      { text: 'x'.repeat(501), minutesBefore: 0 },
      { text: 'x', minutesBefore: 1_441 },
    ])
      expect((await server.refused('post', '/rollouts/forecast', request(0, { notice }))).status).toBe(422);
  });

  it('is changed under way, with a reason; of none nobody is told; that telling fails holds nothing up', async () => {
    const { id } = await server.send<{ id: string }>('post', '/rollouts', request(0));
    const { plan, revision } = await server.get<Rollout>(`/rollouts/${id}`);
    const changed = { ...plan, notice: { text: 'Renewed soon.', minutesBefore: 5 } };
    await server.send('post', `/rollouts/${id}/plan`, { plan: changed, why: 'shorter', basedOn: revision });
    const [last] = await server.getAnew<{ says: string }[]>(`/rollouts/${id}/revisions`);
    expect(last?.says).toBe(
      'people are told as hosts drain, and 15 min before → as hosts drain, and 5 min before; another text for people',
    );
    await server.send('post', '/estate/faults', { kind: 'fail next', target: 'message' });
    await server.advance(3 * 1_440);
    expect((await server.getAnew<Rollout>(`/rollouts/${id}`)).state).toBe('done');
    expect(told().some(({ text }) => text === 'Renewed soon.')).toBe(true);
    const silent = await server.send<{ id: string }>('post', '/rollouts', request(1, { notice: null }));
    const so = told().length;
    await server.advance(3 * 1_440);
    expect((await server.getAnew<Rollout>(`/rollouts/${silent.id}`)).state).toBe('done');
    expect(told()).toHaveLength(so);
  });
});
