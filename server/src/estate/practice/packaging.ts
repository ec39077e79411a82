/** The practice packaging machine. Its disk is a real folder; installers write real files into it. */
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Entry } from '@vatline/core/inventory/entry';
import { generatePayload, systemFiles, noiseFiles, type InstallerPlan } from '@vatline/demo/payload';
import { EstateError, type Operation } from '../driver/operations.ts';
import type { Installer, PackagingMachine } from '../driver/packaging.ts';
import type { EstateDb } from './estate-database.ts';
import type { PracticeOperations } from './operations.ts';
import { minutesOf } from './pace-of-work.ts';

/** What is known of the machine besides its disk. */
interface MachineState {
  readonly quiet: boolean;
  readonly installed: readonly string[];
  /** Installers that finish with the next restart. */
  readonly pending: readonly string[];
}

/** Exit codes of installers, as the trade has them: done, and done but for a restart. */
const DONE = '0';
const RESTART_REQUIRED = '3010';

export class PracticePackaging implements PackagingMachine {
  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
  ) {
    operations.effect('install', (a: { folder: string; installer: string }) =>
      this.endInstall(a.folder, a.installer),
    );
    operations.effect('restart packaging machine', (a: { folder: string }) => this.endRestart(a.folder));
  }

  async installers(): Promise<Installer[]> {
    const rows = await this.db.selectFrom('installer').selectAll().orderBy('id').execute();
    return rows.map((row) => {
      const { id, name, publisher, version, files, entryPoints, licence } = JSON.parse(
        row.json,
      ) as InstallerPlan;
      return { id, name, publisher, version, files, entryPoints, licence };
    });
  }

  prepare(_key: string, folder: string, { quiet }: { readonly quiet: boolean }): Promise<void> {
    rmSync(folder, { recursive: true, force: true });
    writeAll(folder, systemFiles());
    saveState(folder, { quiet, installed: [], pending: [] });
    return Promise.resolve();
  }

  async install(key: string, folder: string, installer: string): Promise<Operation> {
    const plan = await this.plan(installer);
    return this.operations.begin({
      key,
      call: 'install',
      subject: plan.name,
      minutes: minutesOf.install,
      effect: 'install',
      argument: { folder, installer },
    });
  }

  restart(key: string, folder: string): Promise<Operation> {
    return this.operations.begin({
      key,
      call: 'restart',
      subject: 'packaging machine',
      minutes: minutesOf.restart,
      effect: 'restart packaging machine',
      argument: { folder },
    });
  }

  async source(folder: string, installer: string): Promise<void> {
    const plan = await this.plan(installer);
    writeAll(folder, [
      { path: 'setup.txt', content: Buffer.from(`Setup of ${plan.name} ${plan.version}\n`) },
    ]);
    writeAll(folder, generatePayload(plan));
  }

  async settings(folder: string): Promise<Entry[]> {
    const { quiet, installed, pending } = stateOf(folder);
    const start = quiet ? 'disabled' : 'automatic';
    const setting = (key: string, name: string, value: string): Entry => ({
      kind: 'registry',
      key,
      name,
      type: 'REG_SZ',
      value,
    });
    const base: Entry[] = [
      setting('Machine\\System', 'Edition', 'Desktop OS 24.2 clean'),
      { kind: 'service', name: 'System service 1', start: 'automatic', image: 'System/svc1.exe' },
      { kind: 'service', name: 'System search index', start, image: 'System/search.exe' },
      { kind: 'service', name: 'System update', start, image: 'System/update.exe' },
    ];
    const plans = await Promise.all(installed.map((id) => this.plan(id)));
    return [
      ...base,
      ...plans.flatMap((plan) => plan.settings),
      ...plans.flatMap((plan) => (pending.includes(plan.id) ? [] : (plan.afterRestart?.settings ?? []))),
      ...(pending.length > 0 ? [setting('Machine\\System\\Restart required', 'By', pending.join(', '))] : []),
    ];
  }

  private async plan(id: string): Promise<InstallerPlan> {
    const row = await this.db.selectFrom('installer').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw new EstateError('not found', `the packaging machine has no installer ${id}`);
    return JSON.parse(row.json) as InstallerPlan;
  }

  private async endInstall(folder: string, installer: string): Promise<string> {
    if (!existsSync(folder))
      throw new EstateError('failed', 'the packaging machine was cleaned while the installer ran');
    const plan = await this.plan(installer);
    const state = stateOf(folder);
    const late = plan.afterRestart;
    writeAll(folder, generatePayload(plan), (path) => !late?.endings.some((ending) => path.endsWith(ending)));
    writeAll(folder, noiseFiles(plan, state.quiet));
    saveState(folder, {
      ...state,
      installed: [...state.installed.filter((id) => id !== installer), installer],
      pending: late ? [...new Set([...state.pending, installer])] : state.pending,
    });
    return late ? RESTART_REQUIRED : DONE;
  }

  private async endRestart(folder: string): Promise<string> {
    const state = stateOf(folder);
    for (const plan of await Promise.all(state.pending.map((id) => this.plan(id))))
      writeAll(folder, generatePayload(plan), (path) =>
        (plan.afterRestart?.endings ?? []).some((ending) => path.endsWith(ending)),
      );
    writeAll(folder, noiseFiles({ id: 'restart', name: 'Restart' }, state.quiet));
    saveState(folder, { ...state, pending: [] });
    return DONE;
  }
}

function writeAll(
  folder: string,
  files: Iterable<{ path: string; content: Buffer }>,
  isWanted: (path: string) => boolean = () => true,
): void {
  for (const { path, content } of files) {
    if (!isWanted(path)) continue;
    const target = join(folder, path);
    mkdirSync(dirname(target), { recursive: true });
    writeFileSync(target, content);
  }
}

/** Beside the disk, so that it is not captured with it. */
function stateFile(folder: string): string {
  return `${folder}.machine.json`;
}

function saveState(folder: string, state: MachineState): void {
  writeFileSync(stateFile(folder), JSON.stringify(state));
}

function stateOf(folder: string): MachineState {
  if (!existsSync(stateFile(folder)))
    throw new EstateError('failed', 'the packaging machine was not laid out');
  return JSON.parse(readFileSync(stateFile(folder), 'utf8')) as MachineState;
}
