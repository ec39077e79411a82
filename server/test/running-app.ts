/** A real server in a process of its own, with the demo in a folder of its own. */
import { spawn, type ChildProcess } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { copyDemo } from './filled-demo.ts';

const main = resolve(import.meta.dirname, '../dist/main.js');

export class RunningApp {
  private child: ChildProcess | undefined;
  address = '';
  /** Everything the server wrote to its log. */
  output = '';

  private constructor(readonly folder: string) {}

  /** Not launched yet. */
  static inNewFolder(): RunningApp {
    return new RunningApp(mkdtempSync(join(tmpdir(), 'vatline-e2e-')));
  }

  static async start(...flags: string[]): Promise<RunningApp> {
    const app = RunningApp.inNewFolder();
    if (!flags.includes('--empty')) await copyDemo(app.folder);
    await app.launch(...flags);
    return app;
  }

  /** Starts the server and waits until it says where it is. */
  async launch(...flags: string[]): Promise<void> {
    await this.launchWith({}, ...flags);
  }

  /** The same in another environment. */
  async launchWith(extra: NodeJS.ProcessEnv, ...flags: string[]): Promise<void> {
    const port = this.address ? new URL(this.address).port : '0';
    const child = this.spawn(port, flags, extra);
    this.child = child;
    await new Promise<void>((done, fail) => {
      const read = (chunk: Buffer) => {
        this.output += chunk.toString();
        const found = /Vat Line is at (http:\S+)/.exec(chunk.toString());
        if (found?.[1]) {
          this.address = found[1];
          done();
        }
      };
      child.stdout.on('data', read);
      child.stderr.on('data', read);
      child.on('exit', (code) => fail(new Error(`the server ended with ${code}: ${this.output}`)));
    });
  }

  /** A server in this folder, of which nobody waits that it is there. */
  spawn(port: string, flags: readonly string[], extra: NodeJS.ProcessEnv = {}) {
    const env = { ...process.env, PORT: port, VATLINE_DATA: this.folder, HOST: '127.0.0.1', ...extra };
    return spawn(process.execPath, [main, ...flags], { env, stdio: ['ignore', 'pipe', 'pipe'] });
  }

  signal(signal: NodeJS.Signals): void {
    this.child?.kill(signal);
  }

  get pid(): number {
    return this.child?.pid ?? 0;
  }

  /** Whether the process that was launched last is still there. */
  get isRunning(): boolean {
    return this.child?.exitCode === null && this.child.signalCode === null;
  }

  /** As a power cut does it. */
  async kill(): Promise<void> {
    const { child } = this;
    if (!child || !this.isRunning) return;
    const gone = new Promise((done) => child.once('exit', done));
    child.kill('SIGKILL');
    await gone;
  }

  /** Waits for a process that is ending by itself, a second at most. */
  async untilGone(): Promise<void> {
    for (let i = 0; i < 100 && this.isRunning; i++) await new Promise((done) => setTimeout(done, 10));
  }

  async stop(): Promise<void> {
    await this.kill();
    rmSync(this.folder, { recursive: true, force: true });
  }

  async api<T>(path: string, body?: object, method = body ? 'POST' : 'GET'): Promise<T> {
    const response = await fetch(`${this.address}/api/v1${path}`, {
      method,
      ...(body && { headers: { 'content-type': 'application/json' }, body: JSON.stringify(body) }),
    });
    if (!response.ok) throw new Error(`${path}: ${response.status} ${await response.text()}`);
    return (await response.json()) as T;
  }
}
