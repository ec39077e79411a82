/** How a rollout gets on against its forecasts, as its page asks for it. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Rollout } from '@vatline/contract/rollout';
import type { RolloutProgress } from '@vatline/contract/rollout-progress';
import { TestServer } from './harness.ts';

let server: TestServer;
let id: string;
beforeAll(async () => {
  server = await TestServer.open({ demo: true });
  id = (await server.get<Rollout[]>('/rollouts')).find(({ pool }) => pool === 'contact-centre')?.id ?? '';
}, 120_000);
afterAll(() => server.close());

const progress = () => server.get<RolloutProgress>(`/rollouts/${id}/progress`);

describe('a rollout under way', () => {
  it('has a step for every host that is done, and what was promised of all', async () => {
    const { hosts, done, steps, promised, windows } = await progress();
    expect([hosts, done, steps.length, steps.at(-1)?.done]).toEqual([40, 18, 18, 18]);
    const times = steps.map(({ at }) => at);
    expect(times).toEqual([...times].sort((a, b) => a - b));
    expect(promised).toHaveLength(40);
    expect(promised?.every(({ p10, p90 }) => p10 !== null && p90 !== null && p10 <= p90)).toBe(true);
    expect(times.every((at) => windows.some(({ start, end }) => start <= at && at <= end))).toBe(true);
  });

  it('forecasts what is left, and says its end as the rollout does', async () => {
    const { rest } = await progress();
    const rollout = await server.get<Rollout>(`/rollouts/${id}`);
    expect(rest?.hosts).toBe(22);
    expect(rest?.marks.at(-1)?.p90).toBe(rollout.expectedAt);
  });

  it('forecasts nothing while it is paused, and keeps what was promised', async () => {
    await server.send('post', `/rollouts/${id}/pause`, { why: 'exams' });
    const { rest, promised } = await progress();
    expect([rest, promised?.length]).toEqual([null, 40]);
    await server.send('post', `/rollouts/${id}/go-on`);
    expect((await progress()).rest?.hosts).toBe(22);
  });

  it('of no rollout is refused', async () => {
    expect((await server.refused('get', '/rollouts/rollout-none/progress')).status).toBe(404);
  });
});

describe('an ended rollout', () => {
  it('has all its steps, and nothing left', async () => {
    await server.advance(6 * 24 * 60);
    const { hosts, done, steps, rest, promised } = await progress();
    expect([hosts, done, steps.at(-1)?.done, rest]).toEqual([40, 40, 40, null]);
    expect(promised).toHaveLength(40);
  });
});
