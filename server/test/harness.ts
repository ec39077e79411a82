/** A server on a real SQLite file in a folder of its own, whose clock the test moves. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { pino } from 'pino';
import request from 'supertest';
import { expect } from 'vitest';
import { compareVersions, type VersionComparison } from '@vatline/core/image/compare-versions';
import { parseInventory } from '@vatline/core/inventory/text';
import type { Entry } from '@vatline/core/inventory/entry';
import { must } from '@vatline/core/result';
import { leanHardware } from '@vatline/core/image/hardware';
import type { Step } from '@vatline/core/image/recipe';
import type { Job, JobDetail } from '@vatline/contract/job';
import { openApplication, type Application } from '../src/application.ts';
import { copyDemo } from './filled-demo.ts';

export const MINUTE = 60_000;
const REAL_PATIENCE_MS = 45_000;

export const hardware = leanHardware;

export const recipe: Step[] = [
  {
    id: 'system',
    kind: 'operating system',
    system: 'Desktop OS 24.2',
    edition: 'multi-session',
    mediaDigest: 'ab'.repeat(32),
  },
  { id: 'updates', kind: 'updates', release: '2027-03' },
  { id: 'join', kind: 'join directory', ou: 'OU=Build,OU=Hosts,DC=wrenfield,DC=example' },
  { id: 'agent', kind: 'host agent', version: '4.8' },
  { id: 'restart', kind: 'restart' },
];

export class TestServer {
  private constructor(
    readonly folder: string,
    public app: Application,
  ) {}

  static async open(options: { demo?: boolean } = {}): Promise<TestServer> {
    const folder = mkdtempSync(join(tmpdir(), 'vatline-server-'));
    if (options.demo) await copyDemo(folder);
    return new TestServer(folder, await start(folder, options.demo ?? false));
  }

  /** As after a kill: what was in memory is gone, what was on disk is taken up. */
  async restart(options: { demo?: boolean } = {}): Promise<void> {
    await this.app.close();
    this.app = await start(this.folder, options.demo ?? false);
  }

  async close(): Promise<void> {
    await this.app.close();
    rmSync(this.folder, { recursive: true, force: true });
  }

  /** Rows of the practice estate itself: what is really there, past every interface. */
  outside<T>(query: string, ...values: readonly unknown[]): T[] {
    const db = new Sqlite(join(this.folder, 'estate.sqlite'), { readonly: true });
    try {
      return db.prepare(query).all(...values) as T[];
    } finally {
      db.close();
    }
  }

  get now(): number {
    return this.app.estate.clock.now();
  }

  /** Moves the clock through every event up to an instant. */
  async advance(minutes: number): Promise<void> {
    await this.app.estate.clock.advanceTo(this.now + minutes * MINUTE);
  }

  async get<T>(path: string, headers: Record<string, string> = {}): Promise<T> {
    const response = await request(this.app.http).get(`/api/v1${path}`).set(headers);
    expect([path, response.status, response.body]).toEqual([path, 200, response.body]);
    return response.body as T;
  }

  /** As it is now, where a test has written into the database itself, of which nobody is told. */
  getAnew<T>(path: string): Promise<T> {
    return this.get(path, { 'cache-control': 'no-cache' });
  }

  async send<T>(method: 'post' | 'put' | 'patch' | 'delete', path: string, body: object = {}): Promise<T> {
    const response = await request(this.app.http)[method](`/api/v1${path}`).send(body);
    expect([path, response.status, response.body]).toEqual([path, 200, response.body]);
    return response.body as T;
  }

  /** What is on a version, machine, checkpoint or host, as `GET /inventories` names them. */
  async inventory(of: string): Promise<readonly Entry[]> {
    const response = await request(this.app.http)
      .get(`/api/v1/inventories?of=${of}`)
      .buffer(true)
      .parse((stream, done) => {
        let text = '';
        stream.on('data', (piece: Buffer) => (text += piece.toString()));
        stream.on('end', () => done(null, text));
      });
    expect([of, response.status]).toEqual([of, 200]);
    return must(parseInventory(response.body as string)).entries;
  }

  async compare(from: string, to: string): Promise<VersionComparison> {
    return compareVersions(await this.inventory(from), await this.inventory(to));
  }

  /** Sends what must be refused, and gives the problem document. */
  async refused(method: 'get' | 'post' | 'put' | 'patch' | 'delete', path: string, body: object = {}) {
    const call = request(this.app.http)[method](`/api/v1${path}`);
    const response = await (method === 'get' ? call : call.send(body));
    expect(response.headers['content-type']).toMatch('application/problem+json');
    const problem = JSON.parse(response.text) as {
      status: number;
      detail: string;
      faults: { path: string; message: string }[];
    };
    expect(problem.status).toBe(response.status);
    return { ...problem, paths: problem.faults.map((fault) => fault.path) };
  }

  /** Lets the clock run until a job has ended, and then waits for what workers do in real time. */
  async untilEnded(id: string, maxMinutes = 600): Promise<JobDetail> {
    const giveUp = performance.now() + REAL_PATIENCE_MS;
    for (let passed = 0; performance.now() < giveUp; passed += 5) {
      const job = await this.get<JobDetail>(`/jobs/${id}`);
      if (!['waiting', 'running'].includes(job.state)) return job;
      if (passed <= maxMinutes) await this.advance(5);
      await new Promise((done) => setTimeout(done, passed <= maxMinutes ? 0 : 20));
    }
    throw new Error(`job ${id} did not end within ${maxMinutes} minutes of estate time`);
  }

  async run(path: string, body: object = {}): Promise<Job> {
    const { jobId } = await this.send<{ jobId: string }>('post', path, body);
    return this.untilEnded(jobId);
  }

  /** A line with the usual recipe. */
  async newLine(name: string): Promise<string> {
    const { id } = await this.send<{ id: string }>('post', '/lines', { name, hardware });
    await this.send('put', `/lines/${id}/recipe`, { steps: recipe, basedOn: 1 });
    return id;
  }

  /** A line with the usual recipe, built and cut once. */
  async makeVersion(name = 'Records desktop'): Promise<{ lineId: string; versionId: string }> {
    const id = await this.newLine(name);
    await this.buildAndCut(id);
    const line = await this.get<{ versions: { id: string }[] }>(`/lines/${id}`);
    return { lineId: id, versionId: line.versions[0]?.id ?? '' };
  }

  async buildAndCut(lineId: string): Promise<void> {
    expect(await this.run(`/lines/${lineId}/builds`)).toMatchObject({ state: 'done' });
    expect(await this.run(`/lines/${lineId}/machine`, { action: 'shut down' })).toMatchObject({
      state: 'done',
    });
    expect(await this.run(`/lines/${lineId}/versions`)).toMatchObject({ state: 'done' });
  }

  /** The next month: other updates, another version. */
  async buildAndCutAgain(lineId: string): Promise<void> {
    const line = await this.get<{ recipeRevision: number; recipe: Step[] }>(`/lines/${lineId}`);
    const steps = line.recipe.map((step) =>
      step.kind === 'updates' ? { ...step, release: '2027-04' } : step,
    );
    await this.send('put', `/lines/${lineId}/recipe`, { steps, basedOn: line.recipeRevision });
    await this.buildAndCut(lineId);
  }

  newPool(imageVersionId: string, change: object = {}) {
    return {
      name: 'records',
      imageVersionId,
      kind: 'pooled',
      clone: 'linked',
      pattern: 'WCL-RO-##',
      start: 1,
      count: 4,
      ou: 'OU=Desks,OU=Hosts,DC=wrenfield,DC=example',
      places: [{ site: 'yard-a', network: 'desks', datastore: 'standard' }],
      size: 'desk-2',
      sessionLimit: 10,
      ...change,
    };
  }
}

function start(folder: string, demo: boolean): Promise<Application> {
  return openApplication({
    dataFolder: folder,
    webFolder: join(folder, 'no-web'),
    log: pino({ level: process.env['LOG_LEVEL'] ?? 'silent' }),
    demo,
    ticking: false,
  });
}
