/** What two rollouts share: no more hosts at work than the hypervisor makes at a time, the first first, nobody forgotten. */
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Planned } from '@vatline/contract/planned';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { ForecastAnswer, Rollout } from '@vatline/contract/rollout';
import { collisionsIn } from '@vatline/core/rollout/calendar/collisions';
import type { StoreLimit } from '@vatline/core/rollout/calendar/planned-work';
import { MINUTE, TestServer } from './harness.ts';
import { readRolloutJournal } from './rollout-journal.ts';
import { nightlyRollout } from './usual-requests.ts';

const AT_ONCE = 5;
let server: TestServer;
const pools: Record<string, string> = {};
let newVersion = '';

beforeAll(async () => {
  server = await TestServer.open();
  const { lineId, versionId } = await server.makeVersion();
  await server.buildAndCutAgain(lineId);
  const line = await server.get<{ versions: { id: string }[] }>(`/lines/${lineId}`);
  newVersion = line.versions[0]?.id ?? '';
  for (const [name, pattern] of [
    ['first', 'WCL-FI-##'],
    ['second', 'WCL-SE-##'],
  ] as const)
    await server.run('/pools', server.newPool(versionId, { name, pattern, count: 8 }));
  for (const { id, name } of await server.get<PoolSummary[]>('/pools')) pools[name] = id;
  setMade(AT_ONCE);
}, 90_000);
afterAll(() => server.close());

/** As whoever runs the hypervisor sets it. */
function setMade(atOnce: number): void {
  const estate = new Sqlite(join(server.folder, 'estate.sqlite'));
  estate.prepare('update site set makes_at_once = ?').run(atOnce);
  estate.close();
}

const plan = (pool: string, batch: number) => ({
  ...nightlyRollout(pools[pool] ?? '', newVersion, batch),
  zone: 'UTC',
  drainLimitMinutes: 0,
});
const rollouts = () => server.getAnew<Rollout[]>('/rollouts');
/** The journal of all rollouts, the oldest first. */
function told(): { at: number; text: string }[] {
  const own = new Sqlite(join(server.folder, 'vatline.sqlite'), { readonly: true });
  const rows = own.prepare(`select at_ms as at, text from journal where kind = 'rollout' order by id`).all();
  own.close();
  return rows as { at: number; text: string }[];
}

describe('hosts that a hypervisor makes at a time', () => {
  it('hold back one rollout alone, and its forecast says so', async () => {
    const answer = await server.send<ForecastAnswer>('post', '/rollouts/forecast', {
      ...plan('first', 8),
      runs: 50,
    });
    expect(answer.binding[0]?.constraint).toBe('shared limit');
    const atWork = (at: number) =>
      answer.spans.filter(({ start, finish }) => start <= at && at < finish).length;
    expect(Math.max(...answer.spans.map(({ start }) => atWork(start)))).toBe(AT_ONCE);
  });

  it('are never more over two rollouts; whichever began first goes first; both are done', async () => {
    await server.send('post', '/rollouts', plan('first', 4));
    await server.advance(1);
    await server.send('post', '/rollouts', plan('second', 4));
    const [second, first] = await rollouts();
    expect([first?.pool, second?.pool]).toEqual(['first', 'second']);
    // In the calendar two batches of four are more than five.
    const at = `/planned?from=${server.now}&to=${server.now + 1_440 * MINUTE}`;
    const { planned, stores } = await server.get<{ planned: Planned[]; stores: StoreLimit[] }>(at);
    expect(collisionsIn(planned, stores)).toMatchObject([
      { kind: 'hypervisor', store: 'yard-a', operations: 8, free: AT_ONCE },
    ]);
    while (server.now < (first?.nextWindow?.start ?? 0) + 20_000) await server.advance(1);
    expect((await rollouts()).map(({ pool, atWork }) => [pool, atWork])).toEqual([
      ['second', 1],
      ['first', 4],
    ]);
    // In the midst of it what waited for whom is forgotten with the memory.
    await server.restart();
    await server.advance(3 * 60);
    expect((await rollouts()).map(({ pool, done, endedAt }) => [pool, done, endedAt !== null])).toEqual([
      ['second', 8, true],
      ['first', 8, true],
    ]);
    expect(mostAtOnce()).toBe(AT_ONCE);
    const own = new Sqlite(join(server.folder, 'vatline.sqlite'), { readonly: true });
    expect(readRolloutJournal(own)).toMatchObject({ rollouts: 2, done: 16, wrong: [] });
    own.close();
  });

  it('none at all begin nothing, and lose nothing', async () => {
    const remake = { ...plan('first', 4), isRemake: true };
    const { id } = await server.send<{ id: string }>('post', '/rollouts', remake);
    setMade(0);
    const other = { ...remake, poolId: pools['second'] };
    expect((await server.refused('post', '/rollouts/forecast', other)).faults).toEqual([
      { path: 'batch', message: 'yard-a makes no machines now, so no host would ever begin' },
    ]);
    await server.advance(1_440);
    expect(await server.getAnew<Rollout>(`/rollouts/${id}`)).toMatchObject({ done: 0, atWork: 0, hosts: 8 });
    setMade(AT_ONCE);
    await server.advance(1_440);
    expect(await server.getAnew<Rollout>(`/rollouts/${id}`)).toMatchObject({ done: 8, state: 'done' });
  });
});

/** The most hosts that were at work at the same time, whatever the rollout. */
function mostAtOnce(): number {
  const working = new Set<string>();
  let most = 0;
  for (const { text } of told()) {
    const [, host = '', does = ''] = /^(\S+) (drains|is back|failed)/.exec(text) ?? [];
    if (does === 'drains') working.add(host);
    else working.delete(host);
    most = Math.max(most, working.size);
  }
  return most;
}
