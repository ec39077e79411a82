/** What the API answers with ten thousand hosts, against the demo's 154, each in a server of its own. */
import { resolve } from 'node:path';
import autocannon from 'autocannon';
import { pino } from 'pino';
import type { LineSummary } from '@vatline/contract/image';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Rollout } from '@vatline/contract/rollout';
import { openApplication } from '@vatline/server/application';
import { RunningApp } from '../server/test/running-app.ts';
import { nightlyRollout, packagesOf } from '../server/test/usual-requests.ts';
import { watch } from './bystander.ts';
import { askEvenly, type Waited } from './evenly.ts';
import { addLargePool } from './large-pool.ts';

const HOSTS = 10_000;
const A_SECOND = 100;
const SECONDS = 20;
const CONNECTIONS = 10;

/** Prints each address at 10,000 hosts beside the same at 154; `only` takes those whose name holds it. */
export async function benchTenThousand(only = ''): Promise<void> {
  const small = await RunningApp.start();
  const large = await largeApp();
  try {
    // As the clock of a real estate goes: what depends on the time is another one at every tick.
    for (const app of [small, large]) await app.api('/estate/clock', { action: 'rate', rate: 1 });
    for (const [what, pathOf] of addresses) {
      if (!what.includes(only)) continue;
      const peer = await load(small, await pathOf(small));
      const ours = await load(large, await pathOf(large));
      console.log(`${what}, ${A_SECOND} a second (wanted: 99 in 100 under 50 ms)`);
      console.log(`  ${HOSTS.toLocaleString('en-GB')} hosts: ${inWords(ours)}`);
      console.log(`  154 hosts: ${inWords(peer)}`);
    }
    if (only === '') await atWork(large);
  } finally {
    await small.stop();
    await large.stop();
  }
}

/** A server of its own over the demo with a pool of ten thousand. */
async function largeApp(): Promise<RunningApp> {
  const app = RunningApp.inNewFolder();
  const filled = await openApplication({
    dataFolder: app.folder,
    webFolder: resolve(import.meta.dirname, '../web/dist'),
    log: pino({ level: 'silent' }),
    demo: true,
    ticking: false,
  });
  await addLargePool(filled, 'ten-thousand', HOSTS);
  await filled.close();
  await app.launch();
  return app;
}

const largest = async (app: RunningApp): Promise<PoolSummary> => {
  const pools = await app.api<PoolSummary[]>('/pools');
  return pools.reduce((a, b) => (a.hosts >= b.hosts ? a : b));
};

const addresses: readonly (readonly [string, (app: RunningApp) => Promise<string> | string])[] = [
  ['home', () => '/home'],
  ['badges', () => '/waiting'],
  ['pools', () => '/pools'],
  ['how pools are', () => '/pool-health'],
  ['datastores', () => '/datastores'],
  ['a pool', async (app) => `/pools/${(await largest(app)).id}`],
  ['its spares and power', async (app) => `/pools/${(await largest(app)).id}/readiness`],
  ['its cells', async (app) => `/pools/${(await largest(app)).id}/cells`],
  ['its hosts', async (app) => `/pools/${(await largest(app)).id}/hosts?limit=100`],
  ['rollouts', () => '/rollouts'],
  ['a rollout', async (app) => `/rollouts/${(await app.api<Rollout[]>('/rollouts'))[0]?.id ?? ''}`],
  ['packages', () => '/packages'],
  [
    'a comparison of packages',
    async (app) => {
      const all = await packagesOf((path) => app.api(path));
      const [a, b] = all.find((one) => one.versions.length > 1)?.versions ?? [];
      return `/package-versions/${a?.id ?? ''}/comparison?with=${b?.id ?? ''}`;
    },
  ],
  ['access', () => '/assignments'],
  ['jobs', () => '/jobs'],
  ['journal', () => '/journal'],
];

interface Loaded {
  readonly evenly: Waited;
  readonly inBursts: Waited;
}

function inWords({ evenly, inBursts }: Loaded): string {
  const words = ({ p99, longest, failed }: Waited) =>
    `99 in 100 within ${p99} ms, longest ${longest} ms${failed > 0 ? `, ${failed} failed` : ''}`;
  return `${words(evenly)}; in bursts of ${CONNECTIONS}: ${words(inBursts)}`;
}

/** Autocannon has all its connections ask at once, ten times a second, and reads answers beside us. */
async function load(app: RunningApp, path: string): Promise<Loaded> {
  const url = `${app.address}/api/v1${path}`;
  // As after the first minute of a server's day: what is read and compiled once is there.
  for (let i = 0; i < 20; i++) await app.api(path);
  const evenly = await askEvenly(url, A_SECOND, SECONDS);
  const { latency, errors, timeouts, non2xx } = await autocannon({
    url,
    headers: { 'accept-encoding': 'gzip, br' },
    connections: CONNECTIONS,
    overallRate: A_SECOND,
    duration: SECONDS,
  });
  const inBursts = { p99: latency.p99, longest: latency.max, failed: errors + timeouts + non2xx };
  return { evenly, inBursts };
}

/** What somebody waits who asks for the pools while a rollout works through 2,000 hosts at a time. */
async function atWork(app: RunningApp): Promise<void> {
  const pool = await largest(app);
  const line = (await app.api<LineSummary[]>('/lines')).find((one) => one.id === pool.lineId);
  const newest = line?.versions.find(
    (one) => one.state === 'approved' && one.id !== pool.blend?.imageVersionId,
  );
  await app.api('/rollouts', {
    ...nightlyRollout(pool.id, newest?.id ?? '', 2_000),
    window: { rule: 'FREQ=DAILY', start: '00:00', end: '23:59' },
  });
  await app.api('/estate/clock', { action: 'rate', rate: 600 });
  const until = performance.now() + SECONDS * 1000;
  const { p99, longest } = await watch(app, () => performance.now() > until, 10);
  console.log(
    `a bystander of a rollout of ${HOSTS.toLocaleString('en-GB')} hosts, 2,000 at a time, at 600 times the clock: 99 in 100 within ${p99} ms, longest ${longest} ms (wanted: no stall over 100 ms)`,
  );
}
