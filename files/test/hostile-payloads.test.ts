/** Archives that try to get out of their folder, and what is read from what came out of them. */
import { execFileSync } from 'node:child_process';
import {
  existsSync,
  lstatSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  realpathSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import tar from 'tar-stream';
import { afterAll, beforeEach, describe, expect, it } from 'vitest';
import { archiveFolder } from '../src/archive-folder.ts';
import { realPathIn } from '../src/inside.ts';
import { unpackPayload } from '../src/payload.ts';
import { smallTextIn } from '../src/small-texts.ts';

const work = mkdtempSync(join(tmpdir(), 'vatline-hostile-'));
const target = join(work, 'inner', 'payload');
beforeEach(() => {
  rmSync(join(work, 'inner'), { recursive: true, force: true });
  mkdirSync(join(work, 'inner'));
  writeFileSync(join(work, 'secret'), 'not yours');
});
afterAll(() => rmSync(work, { recursive: true, force: true }));

type Written = { readonly path: string; readonly link?: string };

async function tarOf(entries: readonly Written[]): Promise<string> {
  const pack = tar.pack();
  for (const { path, link } of entries)
    if (link === undefined) pack.entry({ name: path }, 'x');
    else pack.entry({ name: path, type: 'symlink', linkname: link });
  pack.finalize();
  const parts: Buffer[] = [];
  for await (const piece of pack) parts.push(piece as Buffer);
  const path = join(work, 'a.tar');
  writeFileSync(path, Buffer.concat(parts));
  return path;
}

/** With the general tool, since ZIP keeps a link as an entry with a mode of its own. */
function zipOf(entries: readonly Written[]): string {
  const path = join(work, 'a.zip');
  const script = `
import json, sys, zipfile
z = zipfile.ZipFile(sys.argv[1], 'w', zipfile.ZIP_DEFLATED)
for e in json.load(sys.stdin):
    i = zipfile.ZipInfo(e['path'])
    i.external_attr = (0o120777 if 'link' in e else 0o100644) << 16
    z.writestr(i, e.get('link', 'x'), zipfile.ZIP_DEFLATED)
z.close()`;
  execFileSync('python3', ['-c', script, path], { input: JSON.stringify(entries) });
  return path;
}

/** Everything below a folder that can be reached, links followed: all of it lies inside. */
function reachesOutside(folder: string): string[] {
  const root = realpathSync(folder);
  return readdirSync(folder, { recursive: true, withFileTypes: true }).flatMap((child) => {
    const path = join(child.parentPath, child.name);
    try {
      const real = realpathSync(path);
      return real === root || real.startsWith(`${root}/`) ? [] : [`${path} is ${real}`];
    } catch {
      return []; // leads nowhere
    }
  });
}

const outside = () => readdirSync(work).filter((name) => !['inner', 'a.tar', 'a.zip'].includes(name));

describe('A1: payloads write and read nowhere else', () => {
  const folder = 'a/b/c/d/e/f/g/h';
  const attack: Written[] = [
    { path: `${folder}/i`, link: '../'.repeat(8) + '.' },
    { path: `${folder}/i/s`, link: '../'.repeat(9) + '..' },
    { path: `${folder}/i/s/tmp/vatline-was-here` },
  ];

  it.each([
    ['tar', tarOf],
    ['ZIP', (entries: readonly Written[]) => Promise.resolve(zipOf(entries))],
  ])('the attack through two links is refused in a %s', async (_kind, archiveOf) => {
    await expect(unpackPayload(await archiveOf(attack), target)).rejects.toThrow(
      /leads outside|lies below|is there twice/,
    );
    expect(existsSync('/tmp/vatline-was-here')).toBe(false);
    expect(existsSync(target)).toBe(false);
  });

  const name = fc.constantFrom('a', 'b', 'c', 's');
  const path = fc.array(name, { minLength: 1, maxLength: 4 }).map((parts) => parts.join('/'));
  const way = fc
    .array(fc.constantFrom('..', '.', 'a', 'b', 'c', 's'), { minLength: 1, maxLength: 6 })
    .map((parts) => parts.join('/'));
  const trees = fc.array(
    fc.oneof(
      fc.record({ path }),
      fc.record({ path, link: fc.oneof(way, fc.constantFrom('/', '/tmp', '../../secret')) }),
    ),
    { minLength: 1, maxLength: 12 },
  );

  it('of random trees of links, each is refused whole or stays inside', async () => {
    let taken = 0;
    await fc.assert(
      fc.asyncProperty(trees, async (entries) => {
        rmSync(target, { recursive: true, force: true });
        try {
          await unpackPayload(await tarOf(entries), target);
          taken++;
          expect(reachesOutside(target)).toEqual([]);
        } catch (error) {
          expect((error as Error).name).toBe('InputError');
          expect((error as Error).message).not.toContain(work);
          expect(existsSync(target)).toBe(false);
        }
        expect(outside()).toEqual(['secret']);
      }),
      { numRuns: 400, seed: 14 },
    );
    expect(taken).toBeGreaterThan(40);
  });

  it('reads nothing through links that were put there otherwise', () => {
    const payload = join(work, 'inner', 'other');
    mkdirSync(join(payload, 'sub'), { recursive: true });
    writeFileSync(join(payload, 'sub', 'own.txt'), 'own');
    symlinkSync('..', join(payload, 'up'));
    symlinkSync('sub', join(payload, 'here'));
    symlinkSync('round', join(payload, 'round'));
    expect(smallTextIn(payload, 'here/own.txt')).toBe('own');
    for (const path of ['up/../secret', 'up/other', 'up', '../secret', 'round', 'sub/none', ''])
      expect([path, realPathIn(payload, path)]).toEqual([path, undefined]);
  });

  it('keeps links of a source as links, and says where one is no file', async () => {
    const source = join(work, 'inner', 'source');
    mkdirSync(join(source, 'bin'), { recursive: true });
    writeFileSync(join(source, 'bin', 'setup'), 'run');
    symlinkSync('bin', join(source, 'tools'));
    const archived = await archiveFolder(source, join(work, 'inner', 'source.tgz'));
    expect(archived.files).toBe(1);
    await unpackPayload(join(work, 'inner', 'source.tgz'), target);
    expect(lstatSync(join(target, 'tools')).isSymbolicLink()).toBe(true);
  });
});

describe('B9: what archives claim is bounded', () => {
  it('the target of a link in a ZIP', async () => {
    const zip = zipOf([{ path: 'l', link: 'x'.repeat(5_000_000) }]);
    await expect(unpackPayload(zip, target)).rejects.toThrow(/target has over 4096 bytes/);
  });
  it('names longer than a system takes, twice the same, files as folders: each in words, without our paths', async () => {
    const cases: [Written[], RegExp][] = [
      [[{ path: 'n'.repeat(300) }], /name longer than the file system takes/],
      [[{ path: 'd/'.repeat(2_100) + 'x' }], /path of over 4,096 bytes/],
      [[{ path: 'x' }, { path: 'x' }], /is there twice/],
      [[{ path: 'x' }, { path: 'x/y' }], /is there twice|no folder/],
      [[{ path: 'x/y' }, { path: 'x', link: 'z' }], /is there twice/],
    ];
    for (const [entries, why] of cases) {
      const failure = await unpackPayload(await tarOf(entries), target).catch((error: unknown) => error);
      expect((failure as Error).message).toMatch(why);
      expect((failure as Error).message).not.toContain(work);
    }
  });
});
