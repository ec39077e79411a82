/** What a host of a rollout through rings costs the server, and how long its page takes to be answered meanwhile. */
import type { Application } from '@vatline/server/application';
import { addLargePool } from './large-pool.ts';

const HOUR = 3_600_000;

export interface RingsCost {
  /** Milliseconds for each host. */
  readonly perHost: number;
  /** Milliseconds for the page, the longest of them, while hosts are worked on. */
  readonly page: number;
  /** For a forecast of one run, which is on the screen first. */
  readonly firstAnswer: number;
}

/** A tenth of a pool made for it, and then the rest. */
export async function ringsCost(
  app: Application,
  address: string,
  hosts: number,
  batch: number,
): Promise<RingsCost> {
  const { poolId, newestId } = await addLargePool(app, `rings-${hosts}`, hosts);
  const ask = async <T>(path: string, body?: object): Promise<T> => {
    const response = await fetch(`${address}/api/v1${path}`, {
      // A connection kept open would be closed by the other end while the clock is being moved.
      headers: { 'content-type': 'application/json', connection: 'close' },
      ...(body && { method: 'POST', body: JSON.stringify(body) }),
    });
    if (!response.ok) throw new Error(await response.text());
    return (await response.json()) as T;
  };
  const plan = {
    window: { rule: 'FREQ=DAILY', start: '22:00', end: '21:59' },
    zone: 'UTC',
    batch,
    maxUnavailable: batch,
    drainLimitMinutes: 0,
    reserve: null,
  };
  const gate = {
    finishedShare: 1,
    soakHours: 0,
    needsApproval: false,
    watchesSignIns: false,
    goesBack: false,
  };
  const rings = [
    { name: 'tenth', poolId, take: { by: 'share', percent: 10, order: 'sites' }, plan, gate },
    { name: 'rest', poolId, take: { by: 'rest' }, plan, gate },
  ];
  const contents = { imageVersionId: newestId, packageVersionIds: [] };
  const asked = performance.now();
  await ask('/ring-orders/forecast', { rings, contents, runs: 1 });
  const firstAnswer = performance.now() - asked;
  const { id: orderId } = await ask<{ id: string }>('/ring-orders', { name: `rings ${hosts}`, rings });
  const { id } = await ask<{ id: string }>('/staged-rollouts', { orderId, revision: 1, contents });
  let [page, asking] = [0, 0];
  const started = performance.now();
  for (;;) {
    const before = performance.now();
    const { endedAt } = await ask<{ endedAt: number | null }>(`/staged-rollouts/${id}`);
    page = Math.max(page, performance.now() - before);
    asking += performance.now() - before;
    if (endedAt !== null) break;
    await app.estate.clock.advanceTo(app.estate.clock.now() + HOUR);
  }
  return { perHost: (performance.now() - started - asking) / hosts, page, firstAnswer };
}
