/** The practice packaging machine. Its disk is a real folder; installers write real files into it. */
import { existsSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import type { Entry } from '@vatline/core/image/inventory';
import { generatePayload, systemFiles, noiseFiles, type InstallerPlan } from '@vatline/demo/payload';
import { EstateError, type Installer, type Operation, type PackagingMachine } from '../driver.ts';
import type { EstateDb } from './estate-database.ts';
import type { PracticeOperations } from './operations.ts';
import { minutesOf } from './pace-of-work.ts';

export class PracticePackaging implements PackagingMachine {
  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
  ) {
    operations.effect('install', (a: { folder: string; installer: string }) =>
      this.endInstall(a.folder, a.installer),
    );
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

  prepare(_key: string, folder: string): Promise<void> {
    rmSync(folder, { recursive: true, force: true });
    writeAll(folder, systemFiles());
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

  async settings(_folder: string, installed: string | null): Promise<Entry[]> {
    const base: Entry[] = [
      {
        kind: 'registry',
        key: 'Machine\\System',
        name: 'Edition',
        type: 'REG_SZ',
        value: 'Desktop OS 24.2 clean',
      },
      { kind: 'service', name: 'System service 1', start: 'automatic', image: 'System/svc1.exe' },
    ];
    return installed === null ? base : [...base, ...(await this.plan(installed)).settings];
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
    writeAll(folder, generatePayload(plan));
    writeAll(folder, noiseFiles(plan));
    return installer;
  }
}

function writeAll(folder: string, files: Iterable<{ path: string; content: Buffer }>): void {
  for (const { path, content } of files) {
    const target = join(folder, path);
    mkdirSync(dirname(target), { recursive: true });
    writeFileSync(target, content);
  }
}
