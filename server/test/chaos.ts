/**
 * A night with kills: rollouts, builds, captures and new pools are begun on the demo, the server is
 * killed after a random change of its databases, started again, and so on; then all is let come to
 * its end, and everything is counted.
 */
import { join } from 'node:path';
import { seededRandom } from '@vatline/core/random';
import type { Job } from '@vatline/contract/job';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import { allJobs, comeToAnEnd, whatIsWrong } from './aftermath.ts';
import { RunningApp } from './running-app.ts';
import { nightlyRollout, smallPool } from './usual-requests.ts';

export interface ChaosFigures {
  readonly kills: number;
  /** Changes of the databases after which the server was killed, added up. */
  readonly writes: number;
  readonly begun: Readonly<Record<string, number>>;
  /** Milliseconds that the longest start after a kill took. */
  readonly longestStart: number;
  /** Jobs by how they ended. */
  readonly jobs: Readonly<Record<string, number>>;
  readonly hosts: number;
  /** Everything that is not as it should be; empty when all is. */
  readonly wrong: readonly string[];
}

const preload = join(import.meta.dirname, 'kill-at-write.cjs');
const MOST_WRITES = 160;

export async function chaos(kills: number, seed: string): Promise<ChaosFigures> {
  const random = seededRandom(seed);
  const app = await RunningApp.start();
  const begun: Record<string, number> = {};
  let [longestStart, writes] = [0, 0];
  try {
    await app.kill();
    for (let i = 0; i < kills; i++) {
      const after = 1 + Math.floor(random() * MOST_WRITES);
      writes += after;
      const started = performance.now();
      await app.launchWith({ NODE_OPTIONS: `--require ${preload}`, KILL_AT_WRITE: String(after) });
      longestStart = Math.max(longestStart, performance.now() - started);
      await app.api('/estate/clock', { action: 'rate', rate: 0 }).catch(() => undefined);
      app.signal('SIGUSR2');
      await untilKilled(app, i, random, begun);
    }
    await app.launch();
    await comeToAnEnd(app);
    const jobs = await allJobs(app);
    const pools = await app.api<PoolSummary[]>('/pools');
    const wrong = await whatIsWrong(app);
    const byState: Record<string, number> = {};
    for (const job of jobs) byState[job.state] = (byState[job.state] ?? 0) + 1;
    const hosts = pools.reduce((sum, pool) => sum + pool.hosts, 0);
    return { kills, writes, begun, longestStart: Math.round(longestStart), jobs: byState, hosts, wrong };
  } finally {
    await app.stop();
  }
}

/** Begins work and lets time pass until the server is gone. */
async function untilKilled(
  app: RunningApp,
  round: number,
  random: () => number,
  begun: Record<string, number>,
): Promise<void> {
  let asked = 0;
  while (app.isRunning) {
    try {
      if (asked++ % 12 === 0) {
        const what = await beginSomething(app, round * 100 + asked, random);
        begun[what] = (begun[what] ?? 0) + 1;
      } else await app.api('/estate/clock', { action: 'next event' });
    } catch {
      // It was killed in the middle of a request, or what was asked for is refused just now.
      await new Promise((done) => setTimeout(done, 5));
    }
  }
}

async function beginSomething(app: RunningApp, number: number, random: () => number): Promise<string> {
  const lines = await app.api<{ id: string; versions: { id: string; state: string }[] }[]>('/lines');
  const line = lines[Math.floor(random() * lines.length)];
  const pools = await app.api<PoolSummary[]>('/pools');
  switch (Math.floor(random() * 5)) {
    case 0: {
      const version = line?.versions.find((one) => one.state === 'approved');
      await app.api('/pools', smallPool(`chaos-${number}`, version?.id, `WCL-X${number}-#`, 3));
      return 'pool';
    }
    case 1:
      await app.api(`/lines/${line?.id ?? ''}/builds`, {});
      return 'build';
    case 2:
      await app.api('/captures', { installers: ['knapsel-2.9'] });
      return 'capture';
    case 3: {
      const job = (await app.api<Job[]>('/jobs')).find((one) => one.state === 'running');
      if (!job) throw new Error('no job to cancel');
      await app.api(`/jobs/${job.id}/cancel`, {});
      return 'cancel';
    }
    default: {
      const pool = pools[Math.floor(random() * pools.length)];
      const versions = lines.find((one) => one.id === pool?.lineId)?.versions ?? [];
      const version = versions.find(
        (one) => one.state === 'approved' && one.id !== pool?.blend?.imageVersionId,
      );
      await app.api('/rollouts', nightlyRollout(pool?.id, version?.id, 4));
      return 'rollout';
    }
  }
}
