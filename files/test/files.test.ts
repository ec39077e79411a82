import { execFileSync } from 'node:child_process';
import {
  chmodSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  rmSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import tar from 'tar-stream';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { unpackPayload } from '../src/payload.ts';
import { scanTree } from '../src/scan.ts';
import { saveInventory, openInventory, compareInventoryFiles } from '../src/inventory-file.ts';
import { inventoryHeader } from '@vatline/core/inventory/text';

const work = mkdtempSync(join(tmpdir(), 'vatline-files-'));
const tree = join(work, 'tree');

/** 600 files with duplicates, a deep path over 100 characters, a name in UTF-8, a large file, links. */
function makeTree(root: string): void {
  for (let i = 0; i < 600; i++) {
    const folder = join(root, `part-${i % 7}`, i % 3 === 0 ? 'deep/er' : 'flat');
    mkdirSync(folder, { recursive: true });
    writeFileSync(join(folder, `file-${i}.txt`), `line ${i % 50}\n`.repeat(i));
  }
  const long = join(root, 'long'.repeat(20), 'path'.repeat(20));
  mkdirSync(long, { recursive: true });
  writeFileSync(join(long, 'béal átha.txt'), 'x');
  writeFileSync(join(root, 'large.bin'), Buffer.alloc(3_000_000, 'abcdefg'));
  writeFileSync(join(root, 'run.sh'), '#!/bin/sh\n');
  writeFileSync(join(root, 'empty'), '');
  chmodSync(join(root, 'run.sh'), 0o755);
  symlinkSync('run.sh', join(root, 'start'));
  mkdirSync(join(root, 'hollow'));
  utimesSync(join(root, 'run.sh'), 1_800_000_000, 1_800_000_000);
}

beforeAll(() => {
  mkdirSync(tree);
  makeTree(tree);
});
afterAll(() => rmSync(work, { recursive: true, force: true }));

describe('scan', () => {
  it('agrees with sha256sum on every file, in order', async () => {
    const { entries, unreadable } = await scanTree(tree);
    const lines = execFileSync(
      'sh',
      ['-c', 'find . -type f -print0 | LC_ALL=C sort -z | xargs -0 sha256sum'],
      { cwd: tree },
    )
      .toString()
      .trim()
      .split('\n');
    const files = entries.flatMap((e) => (e.kind === 'file' ? [`${e.sha256}  ./${e.path}`] : []));
    expect(files).toEqual(lines);
    expect(files).toHaveLength(604);
    expect(unreadable).toEqual([]);
    expect(entries.find((e) => e.kind === 'link')).toEqual({ kind: 'link', path: 'start', target: 'run.sh' });
    expect(entries.find((e) => 'path' in e && e.path === 'run.sh')).toMatchObject({
      mode: '0755',
      modified: '2027-01-15T08:00:00Z',
    });
  });
  it('lists what is neither file, folder nor link', async () => {
    const odd = join(work, 'odd');
    mkdirSync(odd);
    execFileSync('mkfifo', [join(odd, 'pipe')]);
    const { unreadable } = await scanTree(odd);
    expect(unreadable).toEqual([{ path: 'pipe', reason: 'is a pipe, not a file, folder or link' }]);
  });
  it('refuses what is not a folder', () =>
    expect(scanTree(join(tree, 'run.sh'))).rejects.toThrow('is not a folder'));
});

describe('inventory files', () => {
  it('compare from disk, whatever the order of the lines', async () => {
    const { entries } = await scanTree(tree);
    const [a, b] = [join(work, 'a.jsonl'), join(work, 'b.jsonl')];
    saveInventory(a, inventoryHeader(tree, 0, true), entries);
    saveInventory(b, inventoryHeader(tree, 0, true), [...entries].reverse().slice(1));
    const d = compareInventoryFiles(a, b);
    expect([d.added.length, d.removed.length, d.changed.length, d.same]).toEqual([
      0,
      1,
      0,
      entries.length - 1,
    ]);
  });
  it('name the line that cannot be read', () => {
    const bad = join(work, 'bad.jsonl');
    writeFileSync(
      bad,
      `${JSON.stringify(inventoryHeader('x', 0, true))}\n{"kind":"folder","path":"a"}\n{"kind":"folder"}\n`,
    );
    expect(() => [...openInventory(bad).entries()]).toThrow(
      /bad\.jsonl: line 3: is a folder without a text "path"/,
    );
  });
});

async function archive(
  name: string,
  entries: [Partial<tar.Header> & { name: string }, string?][],
  zipped = true,
): Promise<string> {
  const pack = tar.pack();
  for (const [header, content] of entries) pack.entry(header, content ?? '');
  pack.finalize();
  const parts: Buffer[] = [];
  for await (const chunk of pack) parts.push(chunk as Buffer);
  const path = join(work, name);
  writeFileSync(path, zipped ? gzipSync(Buffer.concat(parts)) : Buffer.concat(parts));
  return path;
}

describe('payloads', () => {
  const target = join(work, 'payload');
  const refused = async (path: string, why: RegExp, limits?: { maxBytes: number; maxEntries: number }) => {
    await expect(unpackPayload(path, target, limits)).rejects.toThrow(why);
    expect(readdirSync(work)).not.toContain('payload');
  };
  it('takes tar, tar.gz and ZIP', async () => {
    const good: [{ name: string }, string][] = [[{ name: './app/run.txt' }, 'hello']];
    for (const path of [await archive('g.tar', good, false), await archive('g.tgz', good)]) {
      expect(await unpackPayload(path, target)).toEqual({ files: 1, bytes: 5 });
      expect(readFileSync(join(target, 'app/run.txt'), 'utf8')).toBe('hello');
      rmSync(target, { recursive: true });
    }
    const zip = join(work, 'g.zip');
    execFileSync('python3', [
      '-c',
      `import zipfile; z=zipfile.ZipFile(${JSON.stringify(zip)},'w'); z.writestr('app/run.txt','hello'); z.close()`,
    ]);
    expect(await unpackPayload(zip, target)).toEqual({ files: 1, bytes: 5 });
    rmSync(target, { recursive: true });
  });
  it.each([
    ['a path that climbs out', { name: '../out' }, /climbs out/],
    ['an absolute path', { name: '/etc/x' }, /absolute path/],
    ['a device', { name: 'dev', type: 'character-device' }, /is a character-device/],
    [
      'a link that leads outside',
      { name: 'l', type: 'symlink', linkname: '../../etc' },
      /link that leads outside/,
    ],
    ['a hard link', { name: 'l', type: 'link', linkname: 'x' }, /hard link/],
  ] as [string, Partial<tar.Header> & { name: string }, RegExp][])(
    'refuses %s',
    async (_what, header, why) => {
      await refused(await archive('bad.tgz', [[{ name: 'first' }, 'x'], [header]]), why);
    },
  );
  it('refuses a ZIP that climbs out', async () => {
    const zip = join(work, 'bad.zip');
    execFileSync('python3', [
      '-c',
      `import zipfile; z=zipfile.ZipFile(${JSON.stringify(zip)},'w'); z.writestr('../out','x'); z.close()`,
    ]);
    await refused(zip, /climbs out/);
  });
  it('refuses truncated archives', async () => {
    const whole = readFileSync(await archive('t.tgz', [[{ name: 'a' }, 'x'.repeat(100_000)]]));
    writeFileSync(join(work, 't2.tgz'), whole.subarray(0, whole.length - 20));
    await refused(join(work, 't2.tgz'), /truncated/);
    const plain = readFileSync(await archive('t.tar', [[{ name: 'a' }, 'x'.repeat(100_000)]], false));
    writeFileSync(join(work, 't2.tar'), plain.subarray(0, 5_000));
    await refused(join(work, 't2.tar'), /truncated/);
  });
  it('refuses archives over the limit, and what is no archive', async () => {
    const big = await archive('big.tgz', [
      [{ name: 'a' }, 'x'.repeat(5_000)],
      [{ name: 'b' }, 'y'],
    ]);
    await refused(big, /over the limit of 4,000 bytes/, { maxBytes: 4_000, maxEntries: 10 });
    await refused(big, /over the limit of 1 entries/, { maxBytes: 1e6, maxEntries: 1 });
    writeFileSync(join(work, 'text'), 'hello');
    await refused(join(work, 'text'), /neither tar, tar.gz nor ZIP/);
  });
});
