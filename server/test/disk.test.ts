/** C18: a full disk, and databases that are damaged, read-only, newer, or alone. */
import { copyFileSync, openSync, readFileSync, rmSync, writeFileSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { afterEach, describe, expect, it } from 'vitest';
import type { Clock } from '@vatline/contract/estate';
import type { Health } from '@vatline/contract/home';
import type { Job } from '@vatline/contract/job';
import type { Rollout } from '@vatline/contract/rollout';
import { systemTrouble } from '../src/platform/trouble.ts';
import { RunningApp } from './running-app.ts';

const open: RunningApp[] = [];
afterEach(async () => {
  for (const app of open.splice(0)) await app.stop();
});

async function until<T>(ask: () => Promise<T>, holds: (answer: T) => boolean): Promise<T> {
  let answer = await ask();
  for (let i = 0; i < 400 && !holds(answer); i++) {
    await new Promise((done) => setTimeout(done, 50));
    answer = await ask();
  }
  expect(holds(answer)).toBe(true);
  return answer;
}

describe('what is wrong with the system', () => {
  const coded = (code: string, message: string) => Object.assign(new Error(message), { code });

  it('is told by what the system says', () => {
    const said = [
      coded('ENOSPC', 'ENOSPC: no space left on device, write'),
      new Error('copying: ENOSPC: no space left on device, write'),
      coded('SQLITE_READONLY_DBMOVED', 'attempt to write a readonly database'),
      coded('SQLITE_CORRUPT', 'database disk image is malformed'),
      new Error('database disk image is malformed'),
      coded('SQLITE_IOERR_WRITE', 'disk I/O error'),
    ].map((error) => systemTrouble(error)?.split(/[;]| is | does | cannot /)[0]);
    expect(said).toEqual([
      'The disk',
      'The disk',
      'The data folder',
      'The database',
      'The database',
      'The disk',
    ]);
  });

  it('is not what somebody wrote, or one request did', () => {
    const own = [
      new URIError('URI malformed'),
      new Error('the list is malformed'),
      new Error('The disk is full of no space left'),
      coded('SQLITE_CONSTRAINT_UNIQUE', 'UNIQUE constraint failed: line.name'),
      coded('ENOENT', "ENOENT: no such file or directory, open 'ENOSPC'"),
      undefined,
    ];
    expect(own.map(systemTrouble)).toEqual(own.map(() => undefined));
  });
});

describe('a full disk', () => {
  it('is said on every screen, begins nothing, ends nothing, and all goes on when there is room', async () => {
    const app = await RunningApp.start();
    open.push(app);
    await app.kill();
    const flag = join(app.folder, '..', `full-${app.pid}`);
    await app.launchWith({
      NODE_OPTIONS: `--require ${join(import.meta.dirname, 'disk-full.cjs')}`,
      DISK_FULL: flag,
    });
    const clock = () => app.api<Clock>('/estate/clock');
    const [line] = await app.api<{ id: string }[]>('/lines');
    const { jobId } = await app.api<{ jobId: string }>('/captures', { installers: ['knapsel-2.9'] });
    const contactCentre = async () =>
      (await app.api<Rollout[]>('/rollouts')).find((rollout) => rollout.pool === 'contact-centre');
    const skip = () => app.api('/estate/clock', { action: 'next event' }).catch(() => undefined);
    await until(
      async () => (await skip(), contactCentre()),
      (rollout) => (rollout?.atWork ?? 0) > 2,
    );
    await app.api('/estate/clock', { action: 'rate', rate: 600 });
    writeFileSync(flag, '');
    try {
      const { trouble } = await until(clock, (answer) => answer.trouble !== null);
      expect(trouble).toBe('The disk is full; work goes on when there is room');
      expect(await app.api<Health>('/health')).toMatchObject({ status: 'in trouble', trouble });
      const stood = (await clock()).now;
      const refused = await fetch(`${app.address}/api/v1/lines/${line?.id ?? ''}/builds`, { method: 'POST' });
      expect([refused.status, ((await refused.json()) as { detail: string }).detail]).toEqual([507, trouble]);
      await new Promise((done) => setTimeout(done, 1_500));
      expect((await clock()).now - stood).toBeLessThan(1);
      expect(app.isRunning).toBe(true);
    } finally {
      rmSync(flag, { force: true });
    }
    await until(clock, (answer) => answer.trouble === null);
    expect((await app.api<Health>('/health')).status).toBe('well');
    await until(
      () => app.api<Job>(`/jobs/${jobId}`),
      (job) => job.state === 'done',
    );
    // The contact centre's night, which the full disk stood in the way of, comes to its end.
    const end = await until(
      async () => (await skip(), contactCentre()),
      (rollout) => rollout?.endedAt !== null,
    );
    expect([end?.state, end?.done]).toEqual(['done', 40]);
    expect(app.output).not.toMatch(/nobody (waited|caught)/);
  });
});

describe('a database', () => {
  const failing = async (spoil: (app: RunningApp) => void): Promise<string> => {
    const app = await RunningApp.start();
    open.push(app);
    await app.kill();
    spoil(app);
    const child = app.spawn('0', []);
    let said = '';
    child.stderr.on('data', (piece: Buffer) => (said += piece.toString()));
    const code = await new Promise((done) => child.once('exit', done));
    expect([code, said.trim().split('\n').length]).toEqual([1, 1]);
    return said;
  };

  it('that is no database, has a page damaged, is newer, or is alone: one sentence each', async () => {
    const own = (app: RunningApp) => join(app.folder, 'vatline.sqlite');
    expect(
      await failing((app) => writeFileSync(own(app), 'hello, I am a text and no database'.repeat(50))),
    ).toContain('Vat Line cannot start: vatline.sqlite is damaged; put a backup in its place');
    expect(
      await failing((app) => {
        new Sqlite(own(app)).pragma('wal_checkpoint(truncate)');
        const handle = openSync(own(app), 'r+');
        for (let page = 3; page < 12; page++)
          writeSync(handle, Buffer.alloc(4_000, 0xee), 0, 4_000, page * 4096);
      }),
    ).toContain('vatline.sqlite is damaged');
    expect(
      await failing((app) => {
        const db = new Sqlite(own(app));
        db.prepare('insert into kysely_migration (name, timestamp) values (?, ?)').run('0099-tomorrow', 'x');
        db.close();
      }),
    ).toContain('vatline.sqlite was made by a newer Vat Line (schema 0099-tomorrow)');
    expect(
      await failing((app) => {
        for (const ending of ['', '-wal', '-shm'])
          rmSync(join(app.folder, `estate.sqlite${ending}`), { force: true });
      }),
    ).toContain('estate.sqlite is missing beside vatline.sqlite; put it back from a backup');
  });

  it('that is damaged while the server runs is told by health', async () => {
    const app = await RunningApp.start();
    open.push(app);
    const estate = join(app.folder, 'estate.sqlite');
    const copy = readFileSync(estate);
    expect(copy.length).toBeGreaterThan(50_000);
    new Sqlite(estate).pragma('wal_checkpoint(truncate)');
    const handle = openSync(estate, 'r+');
    for (let page = 5; page < 40; page++) writeSync(handle, Buffer.alloc(4_000, 0xee), 0, 4_000, page * 4096);
    const health = await app.api<Health>('/health');
    expect([health.status, health.trouble]).toEqual(['in trouble', expect.stringContaining('damaged')]);
    copyFileSync(estate, `${estate}.kept`);
  });
});
