/**
 * `npm run odd -- [MINUTES] [SEED]`: odd requests at a demo that works at 600 times the clock,
 * beside somebody who asks for the pools ten times a second. Prints what both waited, and the memory.
 */
import { watch } from './bystander.ts';
import { RunningApp } from '../server/test/running-app.ts';
import { OddRequests, operationsOf, realIds, type DescribedApi } from '../server/test/odd-requests.ts';

const BYSTANDER_EVERY_MS = 100;

async function oddRequests(minutes: number, seed: string) {
  const app = await RunningApp.start();
  try {
    await app.api('/estate/clock', { action: 'rate', rate: 600 });
    const described = (await (await fetch(`${app.address}/api/openapi.json`)).json()) as DescribedApi;
    const operations = operationsOf(described);
    const requests = new OddRequests(seed, await realIds((path) => app.api(path)));
    const until = performance.now() + minutes * 60_000;
    const isOver = () => performance.now() > until;
    const statuses: Record<string, number> = {};
    const failures: string[] = [];
    let asked = '';
    const bystander = watch(app, isOver, BYSTANDER_EVERY_MS, () => asked);
    let slowest = { ms: 0, what: '' };
    for (let round = 2; !isOver(); round = 2 + ((round - 1) % 7))
      for (const operation of operations) {
        if (isOver()) break;
        const { method, path, body } = requests.next(operation, round);
        asked = `${method} ${path.slice(0, 120)} ${body?.slice(0, 80) ?? ''}`;
        const [status, ms] = await timed(app.address + path, method, body);
        statuses[status] = (statuses[status] ?? 0) + 1;
        if (status >= 500) failures.push(`${status} ${method} ${path.slice(0, 120)} ${body?.slice(0, 200)}`);
        if (ms > slowest.ms) slowest = { ms: Math.round(ms), what: `${method} ${path.slice(0, 120)}` };
        // The clock is at 600 whatever was sent to it.
        if (path.includes('/estate/clock')) await app.api('/estate/clock', { action: 'rate', rate: 600 });
      }
    const errors = new Set(app.output.match(/"stack":"[^"]{0,300}/g));
    return {
      errors: [...errors].slice(0, 20),
      statuses,
      failures: failures.slice(0, 20),
      slowest,
      bystander: await bystander,
    };
  } finally {
    await app.stop();
  }
}

async function timed(address: string, method: string, body?: string): Promise<[number, number]> {
  const begun = performance.now();
  const answer = await fetch(address, {
    method: method.toUpperCase(),
    ...(body === undefined ? {} : { body, headers: { 'content-type': 'application/json' } }),
  });
  await answer.arrayBuffer();
  return [answer.status, performance.now() - begun];
}

const [minutes = '5', seed = 'odd requests'] = process.argv.slice(2);
process.stdout.write(`${JSON.stringify(await oddRequests(Number(minutes), seed), null, 2)}\n`);
