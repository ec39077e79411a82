/** A tree that is wide and large, in a file of its own: it takes as long as all other containers together. */
import { execFileSync, spawnSync } from 'node:child_process';
import {
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, expect, it } from 'vitest';
import { folderTree } from '../src/folder-tree.ts';
import { openContainer } from '../src/open-container.ts';
import { packContainer } from '../src/pack-container.ts';

const work = mkdtempSync(join(tmpdir(), 'vatline-large-'));
afterAll(() => rmSync(work, { recursive: true, force: true }));
const at = (name: string) => join(work, name);
const run = (command: string, ...args: string[]) =>
  execFileSync(command, args, { encoding: 'utf8', maxBuffer: 64e6 });
const manifest = { name: 'Large', version: '1', publisher: 'Zinnet', entryPoints: [] };

it('100,000 entries in a folder, and a sparse file of 5 GB: unsquashfs and we agree', async () => {
  const folder = at('many');
  mkdirSync(join(folder, 'wide'), { recursive: true });
  for (let i = 0; i < 100_000; i++)
    writeFileSync(join(folder, 'wide', `entry-${i}`), i % 1000 === 0 ? `${i}` : '');
  writeFileSync(join(folder, 'sparse.bin'), 'start');
  truncateSync(join(folder, 'sparse.bin'), 5_000_000_000);
  const packed = await packContainer({
    tree: folderTree(folder),
    format: 'squashfs',
    out: at('many.sqfs'),
    manifest,
  });
  expect(packed.bytesOut).toBeLessThan(2_000_000);
  expect(run('unsquashfs', '-l', at('many.sqfs')).split('\n')).toHaveLength(100_000 + 4);
  expect(spawnSync('unsquashfs', ['-q', '-n', '-d', at('many-back'), at('many.sqfs')]).status).toBe(0);
  expect(readdirSync(at('many-back/wide'))).toHaveLength(100_000);
  // All but its first block came back as a hole, which reads as zeros.
  const back = statSync(at('many-back/sparse.bin'));
  expect([back.size, back.blocks * 512 <= 131_072]).toEqual([5_000_000_000, true]);
  run('cmp', '-n', '131072', join(folder, 'sparse.bin'), at('many-back/sparse.bin'));
  for (let i = 0; i < 100_000; i += 1000)
    expect(readFileSync(join(at('many-back/wide'), `entry-${i}`), 'utf8')).toBe(`${i}`);
  const ours = await openContainer(at('many.sqfs'));
  expect(ours.tree.entries).toHaveLength(100_002);
  ours.close();
});
