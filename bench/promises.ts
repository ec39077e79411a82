/**
 * How often the band of a forecast holds: so many rollouts run one after the other on the practice
 * estate, two pools in turn, in one wave and in several, in windows that are long enough and not.
 */
import { once } from 'node:events';
import { mkdtempSync, rmSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { pino } from 'pino';
import type { BlendUse } from '@vatline/contract/blends';
import type { Promises } from '@vatline/contract/promises';
import type { Rollout } from '@vatline/contract/rollout';
import { openApplication } from '../server/src/application.ts';
import { copyDemo } from '../server/test/filled-demo.ts';
import { nightlyRollout } from '../server/test/usual-requests.ts';

const DAY = 86_400_000;
/** No plan here takes longer. */
const MOST_DAYS = 8;

const plans = [
  { batch: 3, start: '01:00', end: '05:00' },
  { batch: 2, start: '01:00', end: '03:00' },
  { batch: 1, start: '12:00', end: '16:00' },
];

const wanted = Number(process.argv[2] ?? 200);
const folder = mkdtempSync(join(tmpdir(), 'vatline-promises-'));
await copyDemo(folder);
const app = await openApplication({
  dataFolder: folder,
  webFolder: join(folder, 'no-web'),
  log: pino({ level: 'silent' }),
  demo: true,
  ticking: false,
});
const server = createServer(app.http).listen(0, '127.0.0.1');
await once(server, 'listening');
const address = () => `http://127.0.0.1:${(server.address() as AddressInfo).port}/api/v1`;

/** Throws with what the server says where it refuses. */
async function call<T>(path: string, body?: object): Promise<T> {
  const headers = { 'content-type': 'application/json', 'cache-control': 'no-cache' };
  const post = body && { method: 'POST', body: JSON.stringify(body) };
  const response = await fetch(address() + path, { headers, ...post });
  const text = await response.text();
  if (!response.ok) throw new Error(`${path}: ${text}`);
  return JSON.parse(text) as T;
}

try {
  const pools = (await call<BlendUse[]>('/blends')).filter(({ pool }) =>
    ['map-lab', 'pilot-bench'].includes(pool),
  );
  for (let i = 0; i < wanted; i++) {
    const { poolId, current } = pools[i % pools.length] as BlendUse;
    const { batch, start, end } = plans[
      Math.floor(i / pools.length) % plans.length
    ] as (typeof plans)[number];
    const window = { rule: 'FREQ=DAILY', start, end };
    const body = { ...nightlyRollout(poolId, current?.imageVersionId ?? '', batch), window, isRemake: true };
    const { id } = await call<{ id: string }>('/rollouts', body);
    let isOver = false;
    for (let day = 0; day < MOST_DAYS && !isOver; day++) {
      await app.estate.clock.advanceTo(app.estate.clock.now() + DAY);
      isOver = (await call<Rollout>(`/rollouts/${id}`)).endedAt !== null;
    }
    if ((i + 1) % 20 === 0) process.stdout.write(`${i + 1} of ${wanted}\n`);
  }
  const { calibration } = await call<Promises>('/rollout-promises');
  const percent = (share: number) => `${(share * 100).toFixed(1)} %`;
  for (const { promised, share, low, high } of calibration.by)
    process.stdout.write(
      `by the ${promised * 10} in 10: ${percent(share)} (chance: ${percent(low)} to ${percent(high)})\n`,
    );
  process.stdout.write(
    `between them: ${percent(calibration.inBand.share)} of ${calibration.rollouts}; 80 % should be\n`,
  );
} finally {
  server.close();
  await app.close();
  rmSync(folder, { recursive: true, force: true });
}
