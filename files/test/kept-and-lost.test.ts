/** What comes back out of a container besides names and bytes, and what is said where it does not. */
import { execFileSync } from 'node:child_process';
import {
  chmodSync,
  chownSync,
  linkSync,
  lstatSync,
  mkdirSync,
  mkdtempSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { ContainerFormat } from '@vatline/core/container/formats';
import { attributesAt, setAttributes } from '../src/extended-attributes.ts';
import { folderTree } from '../src/folder-tree.ts';
import { packContainer } from '../src/pack-container.ts';
import { unpackContainer } from '../src/unpack-container.ts';
import { verifyContainer } from '../src/verify-container.ts';

const work = mkdtempSync(join(tmpdir(), 'vatline-kept-'));
const tree = join(work, 'tree');
const manifest = { name: 'Zinnet Browser', version: '141.0', publisher: 'Zinnet', entryPoints: [] };
const run = (command: string, ...args: string[]) =>
  execFileSync(command, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'] });
const isRoot = process.getuid?.() === 0;
/** A capability as `setcap cap_net_raw+ep` writes it. */
const CAPABILITY = Uint8Array.from([1, 0, 0, 2, 0, 32, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0, 0]);

beforeAll(() => {
  mkdirSync(join(tree, 'bin'), { recursive: true });
  for (const name of ['bin/tool', 'bin/owned', 'note', 'early', 'late'])
    writeFileSync(join(tree, name), name);
  linkSync(join(tree, 'bin/tool'), join(tree, 'a-tool'));
  symlinkSync('note', join(tree, 'to-note'));
  if (isRoot) {
    chownSync(join(tree, 'bin/owned'), 1234, 70_000);
    setAttributes(join(tree, 'bin/tool'), [{ name: 'security.capability', value: CAPABILITY }]);
    setAttributes(join(tree, 'to-note'), [{ name: 'trusted.mark', value: Uint8Array.from([255, 0, 61]) }]);
  }
  chmodSync(join(tree, 'bin/owned'), 0o4750);
  chmodSync(join(tree, 'bin'), 0o2775);
  for (const path of ['note', 'bin'])
    setAttributes(join(tree, path), [{ name: 'user.note', value: new TextEncoder().encode('für alle') }]);
  run('touch', '-h', '-d', '2024-02-29 12:00:00.123456789Z', join(tree, 'note'), join(tree, 'to-note'));
  run('touch', '-d', '1969-12-31 23:59:58.500000000Z', join(tree, 'early'));
  run('touch', '-d', '2190-01-01 00:00:00Z', join(tree, 'late'));
});
afterAll(() => rmSync(work, { recursive: true, force: true }));

const pack = async (format: ContainerFormat, without: readonly string[] = []) => {
  const out = join(work, `${format}-${without.length}`);
  const whole = folderTree(tree);
  const entries = whole.entries.filter(({ path }) => !without.includes(path));
  return { out, packed: await packContainer({ tree: { ...whole, entries }, format, out, manifest }) };
};

/** All that is told of an entry, but for the date of folders. */
const factsOf = (root: string, withDates = true) =>
  Object.fromEntries(
    folderTree(root).entries.map(
      ({ path, kind, mode, modified, nanos = 0, owner, attributes, sameAs, target }) => [
        path,
        {
          kind,
          owner,
          sameAs,
          target,
          mode: kind === 'link' ? 0 : mode,
          date: kind === 'folder' || !withDates ? 0 : `${modified}.${Math.floor(nanos / 1000)}`,
          attributes: (attributes ?? []).map(({ name, value }) => `${name}=${[...value].join(',')}`),
        },
      ],
    ),
  );

describe('D25: an image layout', () => {
  it('keeps modes, owners, several names, attributes, capabilities and dates before 1970', async () => {
    const { out, packed } = await pack('oci');
    expect(packed.lost).toEqual([]);
    expect((await verifyContainer(out)).findings.every((finding) => finding.holds)).toBe(true);
    const back = join(work, 'oci-back');
    expect((await unpackContainer(out, back)).notKept).toEqual([]);
    expect(factsOf(back)).toEqual(factsOf(tree));
    expect(lstatSync(join(back, 'early')).mtimeMs).toBe(-1500);
  });
  it('is unpacked alike by a general tool', () => {
    if (!isRoot) return;
    const bundle = join(work, 'bundle');
    run('umoci', 'unpack', '--image', `${join(work, 'oci-0')}:141.0`, bundle);
    expect(factsOf(join(bundle, 'rootfs'), false)).toEqual(factsOf(tree, false));
  });
});

describe('D25: a compressed image', () => {
  it('keeps all but fractions of seconds, and dates that it has no number for, which it says', async () => {
    const { out, packed } = await pack('squashfs');
    expect(packed.lost).toEqual([
      { kind: 'dates', becomes: 'SquashFS counts from 1970 to 2106', entries: 2, paths: ['early', 'late'] },
    ]);
    const back = join(work, 'squashfs-back');
    expect((await unpackContainer(out, back)).notKept).toEqual([]);
    expect(factsOf(back, false)).toEqual(factsOf(tree, false));
    expect(lstatSync(join(back, 'note')).mtimeMs).toBe(Date.UTC(2024, 1, 29, 12));
  });
  it('is unpacked alike by a general tool, and what that packs by us', async () => {
    if (!isRoot) return;
    const [theirs, image, back] = [join(work, 'unsquashed'), join(work, 'peer.img'), join(work, 'peer-back')];
    run('unsquashfs', '-q', '-n', '-d', theirs, join(work, 'squashfs-0'));
    expect(factsOf(theirs, false)).toEqual(factsOf(tree, false));
    run('mksquashfs', tree, image, '-quiet', '-no-progress');
    await unpackContainer(image, back);
    expect(factsOf(back, false)).toEqual(factsOf(tree, false));
  });
  it('with thousands of different attributes and owners', async () => {
    const many = join(work, 'many');
    mkdirSync(many);
    for (let i = 0; i < 3_000; i++) {
      writeFileSync(join(many, `f${i}`), '');
      setAttributes(join(many, `f${i}`), [{ name: 'user.number', value: new TextEncoder().encode(`${i}`) }]);
      if (isRoot) chownSync(join(many, `f${i}`), 10_000 + i, 0);
    }
    const out = join(work, 'many.img');
    await packContainer({ tree: folderTree(many), format: 'squashfs', out, manifest });
    await unpackContainer(out, join(work, 'many-back'));
    expect(factsOf(join(work, 'many-back'), false)).toEqual(factsOf(many, false));
    if (!isRoot) return;
    run('unsquashfs', '-q', '-n', '-d', join(work, 'many-theirs'), out);
    expect(factsOf(join(work, 'many-theirs'), false)).toEqual(factsOf(many, false));
  });
});

describe('D25: a disk', () => {
  it('says all that it cannot keep', async () => {
    const { packed } = await pack('vhdx', ['to-note']);
    const attributed = folderTree(tree).entries.flatMap(({ path, kind, attributes }) =>
      attributes && kind !== 'link' ? [path] : [],
    );
    expect(attributed).toEqual(expect.arrayContaining(['bin', 'note']));
    const lost = Object.fromEntries(packed.lost.map(({ kind, paths }) => [kind, paths]));
    expect(lost).toEqual({
      permissions: ['bin', 'bin/owned'],
      ...(isRoot ? { owners: ['bin/owned'] } : {}),
      'several names': ['bin/tool'],
      'extended attributes': attributed,
      dates: ['early', 'late'],
    });
  });
  it('loses nothing of an ordinary tree', async () => {
    const plain = join(work, 'plain');
    mkdirSync(join(plain, 'sub'), { recursive: true, mode: 0o755 });
    writeFileSync(join(plain, 'sub/file'), 'x', { mode: 0o644 });
    const out = join(work, 'plain.vhdx');
    expect((await packContainer({ tree: folderTree(plain), format: 'vhdx', out, manifest })).lost).toEqual(
      [],
    );
  });
});

it('D25: where a system does not take what is unpacked, that is told', async () => {
  const whole = folderTree(tree);
  const entries = whole.entries.map((entry) =>
    entry.path === 'note'
      ? { ...entry, attributes: [{ name: 'nowhere.known', value: Uint8Array.from([1]) }] }
      : entry,
  );
  const out = join(work, 'unknown.oci');
  await packContainer({ tree: { ...whole, entries }, format: 'oci', out, manifest });
  expect((await unpackContainer(out, join(work, 'unknown-back'))).notKept).toEqual([
    {
      kind: 'extended attributes',
      becomes: 'this system does not take them',
      entries: 1,
      paths: ['note'],
    },
  ]);
  expect(attributesAt(join(work, 'unknown-back/note'))).toEqual([]);
});
