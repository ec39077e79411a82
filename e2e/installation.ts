/** What a packager brings from a machine of their own: two scans and an archive, made by the command line. */
import { execFileSync } from 'node:child_process';
import { mkdirSync, writeFileSync } from 'node:fs';
import { join, resolve } from 'node:path';

const cli = resolve(import.meta.dirname, '../cli/dist/main.js');

/** Paths of the three files, made in a folder; the installation adds one folder of so many small files. */
export function scanOfAnInstallation(
  folder: string,
  files: number,
): { before: string; after: string; payload: string } {
  const tree = join(folder, 'tree');
  const before = join(folder, 'before.jsonl');
  const after = join(folder, 'after.jsonl');
  const payload = join(folder, 'payload.tar.gz');
  const vatline = (...args: string[]) => execFileSync(process.execPath, [cli, ...args], { stdio: 'ignore' });
  mkdirSync(tree, { recursive: true });
  vatline('scan', tree, '--out', before);
  mkdirSync(join(tree, 'ledger'));
  for (let i = 0; i < files; i++) writeFileSync(join(tree, 'ledger', `page-${i}.txt`), `page ${i}`);
  vatline('scan', tree, '--out', after);
  execFileSync('tar', ['czf', payload, '-C', tree, '.']);
  return { before, after, payload };
}
