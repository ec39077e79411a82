/** What a host of a rollout costs the server, in a large pool against a small one, and many at once against the clock. */
import type { Application } from '@vatline/server/application';
import { addLargePool, type LargePool } from './large-pool.ts';

const HOUR = 3_600_000;
const MINUTE = 60_000;

/** Runs one rollout over all hosts of a pool made for it; milliseconds for each host. */
export async function hostCost(
  app: Application,
  address: string,
  hosts: number,
  batch: number,
): Promise<number> {
  await begin(address, await addLargePool(app, `bench-${hosts}`, hosts), batch);
  const started = performance.now();
  while ((await openRollouts(app, 'bench-')) > 0)
    await app.estate.clock.advanceTo(app.estate.clock.now() + HOUR);
  return (performance.now() - started) / hosts;
}

export interface InFlight {
  /** The most hosts that were at work at the same time. */
  readonly hosts: number;
  /** Minutes by the estate's clock, until the last was done. */
  readonly minutes: number;
  /** Seconds that they took here. */
  readonly seconds: number;
}

/** All hosts of so many pools at once, each pool by a rollout of its own. */
export async function inFlight(
  app: Application,
  address: string,
  pools: number,
  hostsEach: number,
): Promise<InFlight> {
  // Room for them, and a hypervisor that makes so many at a time.
  await app.estate.seed.enlarge('yard-a', Math.ceil((pools * hostsEach) / 40));
  const name = `flight-${pools}-`;
  for (let i = 0; i < pools; i++)
    await begin(address, await addLargePool(app, `${name}${i}`, hostsEach), hostsEach);
  const { clock } = app.estate;
  const [from, started] = [clock.now(), performance.now()];
  let most = 0;
  while ((await openRollouts(app, name)) > 0) {
    await clock.advanceTo(clock.now() + MINUTE);
    most = Math.max(most, await hostsAtWork(app));
  }
  return {
    hosts: most,
    minutes: (clock.now() - from) / MINUTE,
    seconds: (performance.now() - started) / 1_000,
  };
}

async function begin(address: string, { poolId, newestId }: LargePool, batch: number): Promise<void> {
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
}

/** Rollouts that have not ended, of pools whose names begin so. */
async function openRollouts({ db }: Application, name: string): Promise<number> {
  const { n } = await db
    .selectFrom('rollout')
    .innerJoin('pool', 'pool.id', 'pool_id')
    .select(({ fn }) => fn.countAll<number>().as('n'))
    .where('pool.name', 'like', `${name}%`)
    .where('ended_ms', 'is', null)
    .executeTakeFirstOrThrow();
  return n;
}

async function hostsAtWork({ db }: Application): Promise<number> {
  const { n } = await db
    .selectFrom('host')
    .select(({ fn }) => fn.countAll<number>().as('n'))
    .where('work', '!=', 'none')
    .executeTakeFirstOrThrow();
  return n;
}
