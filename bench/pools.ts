/** What planning and making pools costs, each beside the same for few hosts. */
import { cloneKinds, type CloneStorageInput } from '@vatline/core/pool/clone-storage';
import { restingRules, type ReadinessFacts, type RestMode } from '@vatline/core/pool/readiness';
import { simulateDay, type DayInput } from '@vatline/core/pool/simulated-day';
import { chanceOfFilling, drawGrowth, fillingByDay } from '@vatline/core/pool/storage-risk';
import type { LineSummary } from '@vatline/contract/image';
import type { Job } from '@vatline/contract/job';
import type { Application } from '@vatline/server/application';

const GB = 1e9;
const HOUR = 3_600_000;

/** Seconds for the three chances and sixty days, from 2,000 draws of so many hosts. */
export function storageRisk(hosts: number): number {
  const input: CloneStorageInput = {
    hosts,
    imageBytes: 18 * GB,
    swapBytes: 2 * GB,
    dataBytes: 0,
    throwawayBytes: 0,
    scratchBytes: 6 * GB,
    streamingStores: 1,
    growthBytesPerDay: 0.2 * GB,
    days: 30,
    datastores: [{ name: 'standard', capacityBytes: hosts * 9 * GB, usedBytes: 0, overcommit: 1 }],
  };
  const growth = { medianBytesPerDay: 0.2 * GB, p90BytesPerDay: 0.4 * GB };
  const started = performance.now();
  const draws = drawGrowth({ hosts, datastores: 1, growth, runs: 2_000, seed: 1 });
  for (const kind of cloneKinds) chanceOfFilling(kind, input, draws);
  fillingByDay('linked', input, draws, 60);
  return (performance.now() - started) / 1000;
}

/** Seconds for one day of spares tried out, minute by minute, with as many hosts; ten people a host. */
export function simulatedDay(hosts: number): number {
  const expected = Array.from({ length: 24 }, (_, hour) => hosts * (hour >= 8 && hour < 20 ? 8 : 4));
  const facts: ReadinessFacts = {
    kind: 'pooled',
    sessionLimit: 10,
    hosts,
    expected,
    arrivals: expected.map((sessions) => sessions / 2),
    leads: { start: 1.3, resume: 0.4, make: 8 },
  };
  const rules = restingRules(hosts);
  const week = rules.week.map((day) => day.map((): RestMode => 'off'));
  const input: DayInput = {
    facts,
    spreads: { start: [1, 1.3], resume: [0.3, 0.4], make: [6, 8] },
    startsAtOnce: 50,
    prices: { perHour: 0.24, suspendedPerHour: 0.003 },
    day: 0,
  };
  const started = performance.now();
  simulateDay(input, { ...rules, week }, 'bench');
  return (performance.now() - started) / 1000;
}

interface Asked {
  readonly app: Application;
  readonly address: string;
}

async function post<T>({ address }: Asked, path: string, body: object): Promise<T> {
  const response = await fetch(`${address}/api/v1${path}`, {
    method: 'POST',
    // A connection kept open would be closed by the other end while the clock is being moved.
    headers: { 'content-type': 'application/json', connection: 'close' },
    body: JSON.stringify(body),
  });
  if (!response.ok) throw new Error(await response.text());
  return (await response.json()) as T;
}

async function poolOf(asked: Asked, name: string, count: number) {
  const response = await fetch(`${asked.address}/api/v1/lines`, { headers: { connection: 'close' } });
  const lines = (await response.json()) as LineSummary[];
  const version = lines.flatMap((line) => line.versions).find((one) => one.state === 'approved');
  return {
    name,
    imageVersionId: version?.id,
    kind: 'pooled',
    clone: 'linked',
    sessionLimit: 1,
    size: 'desk-2',
    pattern: `W${name.toUpperCase()}-####`,
    start: 1,
    count,
    ou: 'OU=Desks,OU=Hosts,DC=wrenfield,DC=example',
    joinAccount: 'join-desks',
    places: [{ site: 'yard-a', network: 'desks', datastore: 'standard' }],
    atOnce: 50,
  };
}

/** The longest of some answers of the fit panel, milliseconds, each to another count as somebody types. */
export async function fitAnswer(asked: Asked, count: number): Promise<number> {
  const body = await poolOf(asked, 'fit', count);
  await post(asked, '/pools/preview', body);
  let longest = 0;
  for (let i = 0; i < 20; i++) {
    const started = performance.now();
    await post(asked, '/pools/preview', { ...body, count: count - i });
    longest = Math.max(longest, performance.now() - started);
  }
  return longest;
}

/** Gives the demo's site the room that thousands of hosts need. */
export async function makeRoom({ estate }: Application): Promise<void> {
  await estate.seed.enlarge('yard-a', 100);
}

/** Seconds of server time until so many hosts are made, the clock as fast as it goes. */
export async function makingCost(asked: Asked, count: number): Promise<number> {
  const { estate, db } = asked.app;
  const started = performance.now();
  const { jobId } = await post<{ jobId: string }>(asked, '/pools', await poolOf(asked, `of${count}`, count));
  const state = async (): Promise<Job['state']> =>
    (await db.selectFrom('job').select('state').where('id', '=', jobId).executeTakeFirstOrThrow()).state;
  while (['waiting', 'running'].includes(await state())) {
    await estate.clock.advanceTo(estate.clock.now() + HOUR);
    await new Promise((done) => setImmediate(done));
  }
  if ((await state()) !== 'done') throw new Error(`making ${count} hosts ended ${await state()}`);
  return (performance.now() - started) / 1000;
}
