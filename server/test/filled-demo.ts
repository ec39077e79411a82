/** The demo, filled once for all tests that begin with it: each gets a copy, which takes a moment instead of many. */
import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs';
import { join, resolve } from 'node:path';
import { pino } from 'pino';
import { openApplication } from '../src/application.ts';

const root = resolve(import.meta.dirname, '../..');
const cache = join(root, '.cache');

/** Puts the demo, as it is at its first start, into a folder. */
export async function copyDemo(folder: string): Promise<void> {
  const filled = join(cache, `demo-${newest(['core', 'contract', 'files', 'demo', 'server'])}`);
  if (!existsSync(filled)) await fill(filled);
  cpSync(filled, folder, { recursive: true });
}

/** When the sources that fill it were changed last. */
function newest(packages: readonly string[]): number {
  const of = (folder: string): number =>
    readdirSync(folder, { withFileTypes: true }).reduce((latest, child) => {
      const path = join(folder, child.name);
      return Math.max(latest, child.isDirectory() ? of(path) : Math.floor(statSync(path).mtimeMs));
    }, 0);
  return Math.max(...packages.map((name) => of(join(root, name, 'src'))));
}

async function fill(filled: string): Promise<void> {
  mkdirSync(cache, { recursive: true });
  for (const old of readdirSync(cache))
    if (/^demo-\d+$/.test(old) && join(cache, old) !== filled) rmSync(join(cache, old), { recursive: true });
  const folder = mkdtempSync(join(cache, 'filling-'));
  const application = await openApplication({
    dataFolder: folder,
    webFolder: folder,
    log: pino({ level: 'silent' }),
    demo: true,
    ticking: false,
  });
  await application.close();
  try {
    renameSync(folder, filled);
  } catch {
    // Another test was quicker; its demo is the same.
    rmSync(folder, { recursive: true });
  }
}
