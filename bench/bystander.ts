/** Somebody who asks for the pools while something costly goes on: what they wait, and what the server holds. */
import { randomBytes } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { setTimeout as wait } from 'node:timers/promises';
import { RunningApp } from '../server/test/running-app.ts';
import { packagesOf } from '../server/test/usual-requests.ts';

export interface Watched {
  readonly asked: number;
  /** Milliseconds that an answer took. */
  readonly median: number;
  readonly p99: number;
  readonly longest: number;
  /** The five longest waits, with what else was asked then. */
  readonly worst: readonly { readonly ms: number; readonly beside: string }[];
  /** Resident memory of the server in MB: the mean of each tenth of the time, and the most. */
  readonly memory: { readonly tenths: readonly number[]; readonly most: number };
}

/** Asks every `everyMs` until it is over. `doing` tells what else is asked at that moment. */
export async function watch(
  app: RunningApp,
  isOver: () => boolean,
  everyMs: number,
  doing = () => '',
): Promise<Watched> {
  const waits: { ms: number; beside: string }[] = [];
  const memory: number[] = [];
  do {
    const begun = performance.now();
    const answer = await fetch(`${app.address}/api/v1/pools`);
    const beside = doing();
    await answer.arrayBuffer();
    waits.push({ ms: Math.round(performance.now() - begun), beside });
    memory.push(residentBytes(app.pid) / 1e6);
    await wait(everyMs);
  } while (!isOver());
  waits.sort((a, b) => a.ms - b.ms);
  const at = (share: number) => waits[Math.floor(share * (waits.length - 1))]?.ms ?? 0;
  return {
    asked: waits.length,
    median: at(0.5),
    p99: at(0.99),
    longest: at(1),
    worst: waits.slice(-5).reverse(),
    memory: { tenths: meansOfTenths(memory), most: Math.round(Math.max(...memory)) },
  };
}

function meansOfTenths(values: readonly number[]): number[] {
  const length = Math.max(1, Math.ceil(values.length / 10));
  const tenths = Array.from({ length: Math.ceil(values.length / length) }, (_none, i) =>
    values.slice(i * length, (i + 1) * length),
  );
  return tenths.map((part) => Math.round(part.reduce((a, b) => a + b, 0) / part.length));
}

function residentBytes(pid: number): number {
  const found = /VmRSS:\s+(\d+) kB/.exec(readFileSync(`/proc/${pid}/status`, 'utf8'));
  return Number(found?.[1] ?? 0) * 1024;
}

interface Costly {
  readonly what: string;
  readonly ask: () => Promise<Response>;
}

/** Prints the longest wait beside each costly request against that beside nothing, and the most memory. */
export async function benchBystander(): Promise<void> {
  const app = await RunningApp.start();
  try {
    await app.api('/estate/clock', { action: 'rate', rate: 600 });
    const alone = await beside(app, () => wait(3_000));
    console.log(
      `a bystander alone, at 600 times the clock: longest ${alone.longest} ms, ${alone.memory.most} MB`,
    );
    for (const { what, ask } of await costlyRequests(app)) {
      let status = 0;
      const begun = performance.now();
      const seen = await beside(app, async () => {
        const answer = await ask();
        await answer.arrayBuffer();
        ({ status } = answer);
        // What it began goes on behind its answer.
        if (status === 200) await wait(1_000);
      });
      console.log(
        `a bystander of ${what} (${status} after ${((performance.now() - begun) / 1000).toFixed(1)} s): longest ${seen.longest} ms, alone: ${alone.longest} ms, ratio ${(seen.longest / Math.max(1, alone.longest)).toFixed(1)} (wanted: under 1,000 ms); server ${seen.memory.most} MB (wanted: under 900 MB)`,
      );
    }
  } finally {
    await app.stop();
  }
}

async function beside(app: RunningApp, work: () => Promise<unknown>): Promise<Watched> {
  let isOver = false;
  const working = work().finally(() => (isOver = true));
  const [seen] = await Promise.all([watch(app, () => isOver, 5), working]);
  return seen;
}

/** Those that once kept everybody waiting, or took the server with them. */
async function costlyRequests(app: RunningApp): Promise<Costly[]> {
  const api = (path: string, init: RequestInit = {}) => fetch(`${app.address}/api/v1${path}`, init);
  const json = (path: string, body: object) =>
    api(path, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify(body),
    });
  const upload = (path: string, name: string, content: string | Uint8Array<ArrayBuffer>) => {
    const form = new FormData();
    form.append(name, new Blob([content]), name);
    return () => api(path, { method: 'POST', body: form });
  };
  const [line] = await app.api<{ id: string }[]>('/lines');
  const [one] = await packagesOf((path) => app.api(path));
  const imports = `/lines/${line?.id ?? ''}/imports`;
  const ids = (count: number) => ({
    versionIds: Array.from({ length: count }, (_none, i) => `unknown-${i}`),
  });
  const header = '{"inventory":1,"root":"x","takenAt":"2027-01-01T00:00:00Z","caseSensitive":true}';
  const row = (i: number) =>
    `{"kind":"file","path":"folder/${i}","size":1,"sha256":"${'a'.repeat(64)}","mode":"0644","modified":"2027-01-01T00:00:00Z"}`;
  const unknown = Array.from({ length: 5_000 }, (_none, i) => ({ package: `p${i}`, group: 'g', pool: 'x' }));
  const rules = [{ id: 'slow', action: 'drop', expression: '^(([a-zA-Z /.]+)+)+#$', reason: 'slow' }];
  return [
    { what: '5,000 unknown ids', ask: () => json(`/packages/${one?.id ?? ''}/delete-versions`, ids(5_000)) },
    {
      what: '40,000 unknown ids',
      ask: () => json(`/packages/${one?.id ?? ''}/delete-versions`, ids(40_000)),
    },
    { what: 'a list of 5,000 to be assigned', ask: () => json('/bulk', { action: 'assign', rows: unknown }) },
    { what: 'an expression that goes back and forth', ask: () => json('/noise-rules/try', { rules }) },
    { what: 'a tape without end', ask: () => api('/tape?from=1&to=1e308') },
    {
      what: 'a tape of two years',
      ask: () => api(`/tape?from=${Date.UTC(2026, 6)}&to=${Date.UTC(2028, 6)}`),
    },
    {
      what: 'an inventory of one line of 150 MB',
      ask: upload(imports, 'inventory', `${header}\n{"kind":"folder","path":"${'x'.repeat(150_000_000)}"}`),
    },
    {
      what: 'an inventory of 300,000 lines',
      ask: upload(
        imports,
        'inventory',
        [header, ...Array.from({ length: 300_000 }, (_none, i) => row(i))].join('\n'),
      ),
    },
    {
      what: 'a registry export of 100 MB',
      ask: upload('/captures/upload', 'registry', randomBytes(100_000_000)),
    },
    {
      what: '30 MB of JSON',
      ask: () => json('/noise-rules/try', { rules: [{ id: 'x'.repeat(30_000_000) }] }),
    },
  ];
}
