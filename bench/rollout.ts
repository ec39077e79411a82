/** What a host of a rollout costs the server, in a large pool against a small one. */
import type { Application } from '@vatline/server/application';
import { addLargePool } from './large-pool.ts';

const HOUR = 3_600_000;

/** Runs one rollout over all hosts of a pool made for it; milliseconds for each host. */
export async function hostCost(
  app: Application,
  address: string,
  hosts: number,
  batch: number,
): Promise<number> {
  const { poolId, newestId } = await addLargePool(app, `bench-${hosts}`, hosts);
  const response = await fetch(`${address}/api/v1/rollouts`, {
    method: 'POST',
    // A connection kept open would be closed by the other end while the clock is being moved.
    headers: { 'content-type': 'application/json', connection: 'close' },
    body: JSON.stringify({
      poolId,
      imageVersionId: newestId,
      packageVersionIds: [],
      window: { rule: 'FREQ=DAILY', start: '22:00', end: '21:59' },
      zone: 'UTC',
      batch,
      maxUnavailable: batch,
      drainLimitMinutes: 0,
      reserve: null,
    }),
  });
  if (!response.ok) throw new Error(await response.text());
  const { id } = (await response.json()) as { id: string };
  const started = performance.now();
  const ended = () =>
    app.db.selectFrom('rollout').select('ended_ms').where('id', '=', id).executeTakeFirstOrThrow();
  while ((await ended()).ended_ms === null) await app.estate.clock.advanceTo(app.estate.clock.now() + HOUR);
  return (performance.now() - started) / hosts;
}
