/** Containers of every format: written and read by us, and by the general tools for each. */
import { execFileSync } from 'node:child_process';
import {
  copyFileSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readdirSync,
  readlinkSync,
  rmSync,
  statSync,
  truncateSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { containerFormats, type ContainerFormat } from '@vatline/core/container/formats';
import { folderTree } from '../src/folder-tree.ts';
import { inspectContainer } from '../src/inspect-container.ts';
import { openContainer } from '../src/open-container.ts';
import { packContainer, type PackRequest } from '../src/pack-container.ts';
import { scanTree } from '../src/scan.ts';
import { unpackContainer } from '../src/unpack-container.ts';
import { verifyContainer } from '../src/verify-container.ts';
import { makeSampleTree, SAMPLE_FILES } from './sample-tree.ts';

const work = mkdtempSync(join(tmpdir(), 'vatline-containers-'));
/** With links for the formats that have them, without for the one that has not. */
const linked = join(work, 'linked');
const plain = join(work, 'plain');
const treeFor = (format: ContainerFormat) => (format.startsWith('vhdx') ? plain : linked);
const at = (name: string) => join(work, name);
const manifest = {
  name: 'Zinnet Browser',
  version: '141.0',
  publisher: 'Zinnet',
  entryPoints: [{ name: 'Zinnet', path: 'run.sh' }],
};

const pack = (format: ContainerFormat, name: string, more: Partial<PackRequest> = {}) =>
  packContainer({ tree: folderTree(treeFor(format)), format, out: at(name), manifest, ...more });
const run = (command: string, ...args: string[]) =>
  execFileSync(command, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'pipe'], maxBuffer: 1e9 });

async function digestsOf(folder: string): Promise<string[]> {
  const { entries } = await scanTree(folder);
  return entries.flatMap((entry) => (entry.kind === 'file' ? [`${entry.path} ${entry.sha256}`] : [])).sort();
}

async function digestsIn(container: string): Promise<string[]> {
  const { entries } = await inspectContainer(container);
  return entries.flatMap((entry) => (entry.kind === 'file' ? [`${entry.path} ${entry.digest}`] : [])).sort();
}

/** Disk, partition and volume of a VHDX file, the volume as a file of its own. */
function volumeOf(vhdx: string): { raw: string; volume: string } {
  const [raw, volume] = [`${vhdx}.raw`, `${vhdx}.fat`];
  run('qemu-img', 'convert', '-O', 'raw', vhdx, raw);
  const mib = Math.floor(statSync(raw).size / 2 ** 20) - 2;
  run('dd', `if=${raw}`, `of=${volume}`, 'bs=1M', 'skip=1', `count=${mib}`, 'status=none');
  return { raw, volume };
}

beforeAll(() => {
  for (const [folder, links] of [
    [linked, true],
    [plain, false],
  ] as const) {
    mkdirSync(folder);
    makeSampleTree(folder, links);
  }
});
afterAll(() => rmSync(work, { recursive: true, force: true }));

describe.each(containerFormats)('%s', (format) => {
  const name = `zinnet.${format}`;
  it('is the same bytes each time, however many blocks are worked on at once', async () => {
    const first = await pack(format, name);
    const second = await pack(format, `${name}-2`, { parallel: 1 });
    expect(first.sha256).toBe(second.sha256);
    expect(first).toMatchObject({ format, files: SAMPLE_FILES });
    expect((await pack(format, `${name}-3`, { epoch: 1 })).sha256).not.toBe(first.sha256);
  });

  it('says what it is and holds every file, and its bill of materials lists them', async () => {
    const found = await inspectContainer(at(name));
    expect(found).toMatchObject({ format, manifest });
    expect(await digestsIn(at(name))).toEqual(await digestsOf(treeFor(format)));
    const bom = JSON.parse(readFileSync(at(`${name}.cdx.json`), 'utf8')) as { components: unknown[] };
    expect(bom.components).toHaveLength(SAMPLE_FILES);
  });

  it('verifies', async () => {
    const { findings } = await verifyContainer(at(name));
    expect(findings.filter((finding) => !finding.holds)).toEqual([]);
    expect(findings.map((finding) => finding.what.split(':')[0])).toEqual(
      expect.arrayContaining(['structure', 'names', 'content', 'bill of materials']),
    );
  });

  it('unpacks byte for byte', async () => {
    const back = at(`back-${format}`);
    expect(await unpackContainer(at(name), back)).toMatchObject({ files: SAMPLE_FILES });
    run('diff', '-r', '--no-dereference', treeFor(format), back);
    expect(readdirSync(join(back, 'hollow'))).toEqual([]);
    expect(statSync(join(back, 'run.sh')).mtimeMs).toBe(1_800_000_000_000);
    if (treeFor(format) === plain) return;
    expect(statSync(join(back, 'run.sh')).mode & 0o777).toBe(0o755);
    expect(readlinkSync(join(back, 'start'))).toBe('run.sh');
  });

  it('leaves nothing behind when it is cancelled, or cannot be written', async () => {
    await expect(pack(format, `half-${format}`, { cancelled: () => true })).rejects.toThrow('cancelled');
    expect(readdirSync(work).filter((file) => file.startsWith('half'))).toEqual([]);
    await expect(pack(format, name)).rejects.toThrow('exists already');
  });

  it('holds only what is asked for, with the folders above it', async () => {
    const tree = folderTree(treeFor(format), new Set(['part-0/deep/er/file-0.txt']));
    await pack(format, `some-${format}`, { tree });
    const { entries } = await inspectContainer(at(`some-${format}`));
    expect(entries.map((entry) => entry.path)).toEqual([
      'part-0',
      'part-0/deep',
      'part-0/deep/er',
      'part-0/deep/er/file-0.txt',
    ]);
  });
});

it('what is to be packed must be there', () =>
  expect(() => folderTree(plain, new Set(['nowhere']))).toThrow('nowhere: is to be packed but is not'));

describe('general tools read ours', () => {
  it('unsquashfs: lists and extracts, links and modes included', () => {
    const listed = run('unsquashfs', '-l', at('zinnet.squashfs')).split('\n');
    expect(listed.filter((line) => line.endsWith('.txt'))).toHaveLength(602);
    run('unsquashfs', '-q', '-n', '-d', at('unsquashed'), at('zinnet.squashfs'));
    run('diff', '-r', '--no-dereference', linked, at('unsquashed'));
    expect(statSync(join(at('unsquashed'), 'run.sh')).mode & 0o777).toBe(0o755);
  });
  it.each(['vhdx', 'vhdx-fixed'])('%s: qemu-img, sgdisk, fsck.fat and mcopy find nothing wrong', (format) => {
    expect(run('qemu-img', 'check', at(`zinnet.${format}`))).toContain('No errors');
    const { raw, volume } = volumeOf(at(`zinnet.${format}`));
    expect(run('sgdisk', '-v', raw)).toContain('No problems found');
    expect(run('fsck.fat', '-n', volume)).toMatch(/\d+ files, \d+\/\d+ clusters/);
    const copied = at(`mcopied-${format}`);
    mkdirSync(copied);
    run('mcopy', '-s', '-Q', '-i', volume, '::*', copied);
    run('diff', '-r', plain, copied);
  });
  it('umoci unpacks, skopeo copies the image layout', () => {
    run('umoci', 'unpack', '--image', `${at('zinnet.oci')}:141.0`, at('bundle'));
    run('diff', '-r', '--no-dereference', linked, at('bundle/rootfs'));
    run('skopeo', 'copy', '--insecure-policy', `oci:${at('zinnet.oci')}:141.0`, `oci:${at('copied')}:141.0`);
    expect(readdirSync(at('copied/blobs/sha256'))).toHaveLength(3);
  });
});

describe('we read those of general tools', () => {
  it('mksquashfs, with its own block size', async () => {
    run('mksquashfs', linked, at('peer.squashfs'), '-comp', 'gzip', '-b', '16384', '-quiet', '-no-progress');
    expect(await digestsIn(at('peer.squashfs'))).toEqual(await digestsOf(linked));
    expect((await verifyContainer(at('peer.squashfs'))).findings.every((finding) => finding.holds)).toBe(
      true,
    );
  });
  it.each(['xz', 'zstd'])('D23: mksquashfs with %s', async (compression) => {
    const image = at(`${compression}.squashfs`);
    run('mksquashfs', linked, image, '-comp', compression, '-quiet', '-no-progress');
    expect(await digestsIn(image)).toEqual(await digestsOf(linked));
  });
  it.each(['lzo', 'lz4', 'lzma'])('D23: mksquashfs with %s is refused by name', async (compression) => {
    const image = at(`${compression}.squashfs`);
    run('mksquashfs', linked, image, '-comp', compression, '-quiet', '-no-progress');
    expect((await verifyContainer(image)).findings).toEqual([
      { holds: false, what: `structure: is compressed with ${compression}; zlib, xz, zstd are read` },
    ]);
  });
  it.each([
    ['a volume without partitions', []],
    ['a GPT partition', ['-n', '1:2048:0', '-t', '1:0700']],
  ])('mkfs.fat, mcopy and qemu-img convert: %s', async (what, partition) => {
    const key = what.replaceAll(' ', '-');
    const raw = at(`${key}.raw`);
    writeFileSync(raw, '');
    truncateSync(raw, 80 * 2 ** 20);
    if (partition.length > 0) run('sgdisk', ...partition, raw);
    const offset = partition.length > 0 ? 2 ** 20 : 0;
    const sectors = offset ? [String(79 * 1024 - 20)] : [];
    run('mkfs.fat', '-F', '32', '-s', '1', `--offset=${offset / 512}`, raw, ...sectors);
    const image = offset ? `${raw}@@${offset}` : raw;
    for (const child of readdirSync(plain)) run('mcopy', '-s', '-Q', '-i', image, join(plain, child), '::/');
    run('qemu-img', 'convert', '-O', 'vhdx', raw, at(`${key}.vhdx`));
    expect(await digestsIn(at(`${key}.vhdx`))).toEqual(await digestsOf(plain));
  });
  it('umoci and tar: several layers, whiteouts and hard links', async () => {
    const image = at('peer-oci');
    run('umoci', 'init', '--layout', image);
    run('umoci', 'new', '--image', `${image}:1`);
    const [lower, upper] = [at('lower.tar'), at('upper.tar')];
    mkdirSync(at('up/part-1'), { recursive: true });
    mkdirSync(at('up/part-2'), { recursive: true });
    writeFileSync(at('up/part-1/.wh.flat'), '');
    writeFileSync(at('up/part-2/new.txt'), 'new');
    run('sh', '-c', `cd ${at('up')} && ln -f part-2/new.txt part-2/same.txt`);
    run('tar', '-cf', lower, '-C', linked, '.');
    run('tar', '-cf', upper, '-C', at('up'), '.');
    run('umoci', 'raw', 'add-layer', '--image', `${image}:1`, lower);
    run('umoci', 'raw', 'add-layer', '--image', `${image}:1`, upper);
    const expected = (await digestsOf(linked)).filter((line) => !line.startsWith('part-1/flat/'));
    const found = await digestsIn(image);
    expect(found.filter((line) => !/^part-2\/(new|same)/.test(line))).toEqual(expected);
    const own = found.filter((line) => /^part-2\/(new|same)/.test(line)).map((line) => line.split(' ')[1]);
    expect(own).toHaveLength(2);
    expect(own[0]).toBe(own[1]);
    run('umoci', 'unpack', '--image', `${image}:1`, at('peer-bundle'));
    expect(found).toEqual(await digestsOf(at('peer-bundle/rootfs')));
  });
});

describe('a disk whose digest is worked out while it is written', () => {
  const MIB = 2 ** 20;
  /** Larger than what is hashed on the same thread. */
  const large = (fill: (bytes: Buffer) => void) => {
    const folder = mkdtempSync(join(work, 'large-'));
    const bytes = Buffer.alloc(40 * MIB);
    fill(bytes);
    writeFileSync(join(folder, 'a-first'), 'first');
    writeFileSync(join(folder, 'b-large'), bytes);
    writeFileSync(join(folder, 'c-empty'), '');
    return folder;
  };
  const packed = async (folder: string, format: 'vhdx' | 'vhdx-fixed') => {
    const out = `${folder}.${format}`;
    const { sha256, bytesOut } = await packContainer({ tree: folderTree(folder), format, out, manifest });
    expect(run('sha256sum', out).slice(0, 64)).toBe(sha256);
    expect(run('qemu-img', 'check', out)).toContain('No errors');
    expect(await digestsIn(out)).toEqual(await digestsOf(folder));
    return bytesOut;
  };
  it('holds every block of content, and the two of the partition table and the volume', async () => {
    const folder = large((bytes) => bytes.fill('never zero'));
    // Headers and log, metadata, allocation table; tables and content of the disk: 1 + 1 + 40, and the end.
    expect(await packed(folder, 'vhdx')).toBe((2 + 1 + 1 + 42 + 1) * MIB);
  });
  it('leaves out blocks of zeros in the midst of a file, unless it is fixed', async () => {
    const folder = large((bytes) => bytes.fill('head', 0, MIB).fill('tail', 39 * MIB));
    // The first and the last MiB of the file lie across two blocks each.
    const left = await packed(folder, 'vhdx');
    expect(left).toBeLessThanOrEqual((2 + 1 + 1 + 6 + 1) * MIB);
    expect(await packed(folder, 'vhdx-fixed')).toBeGreaterThan(40 * MIB);
  });
});

describe('what FAT32 cannot hold is said before', () => {
  const refusal = async (make: (folder: string) => void) => {
    const folder = mkdtempSync(join(work, 'odd-'));
    make(folder);
    return packContainer({ tree: folderTree(folder), format: 'vhdx', out: `${folder}.vhdx`, manifest }).then(
      () => 'packed',
      (error: Error) => error.message,
    );
  };
  it.each([
    [
      'a link',
      (f: string) => void run('ln', '-s', 'x', join(f, 'link')),
      /link: is a link, which FAT32 does not have/,
    ],
    ['a reserved character', (f: string) => writeFileSync(join(f, 'a:b'), ''), /a:b: holds ":"/],
    ['a dot at the end', (f: string) => writeFileSync(join(f, 'a.'), ''), /ends in a dot or space/],
    [
      'two names that differ in case',
      (f: string) => ['Read.me', 'read.ME'].forEach((name) => writeFileSync(join(f, name), '')),
      /read\.ME: differs from Read\.me in case only/,
    ],
    [
      'a file of 4 GiB',
      (f: string) => {
        writeFileSync(join(f, 'big'), '');
        truncateSync(join(f, 'big'), 2 ** 32);
      },
      /big: has 4294967296 bytes; FAT32 files have at most 4294967295; use SquashFS or OCI/,
    ],
  ])('%s', async (_what, make, why) => expect(await refusal(make)).toMatch(why));
  it('a folder with more names than it has records for', async () => {
    const entries = Array.from({ length: 22_000 }, (_none, i) => ({
      path: `a-name-of-some-length-${i}`,
      kind: 'file' as const,
      size: 0,
      mode: 0o644,
      modified: 0,
    }));
    const tree = { entries, read: () => (async function* () {})() };
    await expect(packContainer({ tree, format: 'vhdx', out: at('many.vhdx'), manifest })).rejects.toThrow(
      /needs 78002 directory records for its names; FAT32 folders have at most 65536/,
    );
  });
});

describe('damage', () => {
  const damaged = (name: string, damage: (path: string) => void) => {
    const path = at(`broken-${name}`);
    run('cp', '-r', at(name), path);
    damage(path);
    return verifyContainer(path);
  };
  const flip = (path: string, offset: number) => {
    const bytes = readFileSync(path);
    bytes[offset] = (bytes[offset] ?? 0) ^ 1;
    writeFileSync(path, bytes);
  };
  it('a flipped byte in an image layout is found', async () => {
    const { findings } = await damaged('zinnet.oci', (path) => {
      const blobs = join(path, 'blobs', 'sha256');
      const largest = readdirSync(blobs).sort(
        (a, b) => statSync(join(blobs, b)).size - statSync(join(blobs, a)).size,
      )[0] as string;
      flip(join(blobs, largest), statSync(join(blobs, largest)).size >> 1);
    });
    expect(findings.some((finding) => !finding.holds)).toBe(true);
  });
  it.each(['zinnet.squashfs', 'zinnet.vhdx'])('%s cut short is found', async (name) => {
    const { findings } = await damaged(name, (path) => truncateSync(path, statSync(path).size >> 1));
    expect(findings.some((finding) => !finding.holds)).toBe(true);
  });
  it('a changed file is not as the bill of materials lists it', async () => {
    copyFileSync(at('zinnet.vhdx.cdx.json'), at('broken-zinnet.vhdx.cdx.json'));
    rmSync(at('broken-zinnet.vhdx'));
    const { findings } = await damaged('zinnet.vhdx', (path) => {
      const bytes = readFileSync(path);
      bytes[bytes.indexOf('abcdefgabcdefg')] = 0x7a;
      writeFileSync(path, bytes);
    });
    expect(findings.filter((finding) => !finding.holds)).toEqual([
      {
        holds: false,
        what: expect.stringMatching(/bill of materials: large(-copy)?\.bin is not as it is listed/) as string,
      },
    ]);
  });
});

describe('D25: files with several names', () => {
  it('stay one file through an image layout, and through an image that a general tool made', async () => {
    const root = join(work, 'several');
    mkdirSync(join(root, 'b'), { recursive: true });
    writeFileSync(join(root, 'z.txt'), 'the same');
    linkSync(join(root, 'z.txt'), join(root, 'a.txt'));
    linkSync(join(root, 'z.txt'), join(root, 'b/c.txt'));
    const layout = join(work, 'several.oci');
    await packContainer({ tree: folderTree(root), format: 'oci', out: layout, manifest, epoch: 0 });
    const image = join(work, 'several.squashfs');
    execFileSync('mksquashfs', [root, image, '-comp', 'gzip', '-noappend', '-quiet', '-no-progress']);
    const ours = join(work, 'several-ours.squashfs');
    await packContainer({ tree: folderTree(root), format: 'squashfs', out: ours, manifest, epoch: 0 });
    for (const container of [layout, image, ours]) {
      const out = `${container}.out`;
      expect(await unpackContainer(container, out)).toMatchObject({ files: 3 });
      const inodes = ['a.txt', 'z.txt', 'b/c.txt'].map((name) => statSync(join(out, name)).ino);
      expect(new Set(inodes).size).toBe(1);
      expect(readFileSync(join(out, 'b/c.txt'), 'utf8')).toBe('the same');
    }
  });
});

describe('D24: an image that names the same folder again and again', () => {
  it('is refused by what its header claims, at once', async () => {
    const root = join(work, 'folders');
    mkdirSync(join(root, 'a'), { recursive: true });
    mkdirSync(join(root, 'b'));
    writeFileSync(join(root, 'a', 'x'), 'x');
    const image = join(work, 'folders.squashfs');
    execFileSync('mksquashfs', [
      root,
      image,
      '-comp',
      'gzip',
      '-noappend',
      '-quiet',
      '-no-progress',
      '-noI',
      '-noD',
    ]);
    // Folder b is given the place of folder a: its row stands in the uncompressed listing of the root.
    const bytes = readFileSync(image);
    const table = Number(bytes.readBigUInt64LE(72));
    const rows = bytes.subarray(table);
    const nameA = rows.lastIndexOf(Buffer.from('a\0').subarray(0, 1), rows.lastIndexOf('b'));
    const offsetOf = (name: number) => table + name - 8;
    bytes.writeUInt16LE(bytes.readUInt16LE(offsetOf(nameA)), offsetOf(rows.lastIndexOf('b')));
    writeFileSync(image, bytes);
    const begun = performance.now();
    await expect(openContainer(image)).rejects.toThrow(/which is a too, under more names than it says/);
    // A header that says it has one inode only.
    const claims = readFileSync(image);
    claims.writeUInt32LE(2, 4);
    writeFileSync(image, claims);
    await expect(openContainer(image)).rejects.toThrow(
      /more than the 2 inodes that its header says|under more names/,
    );
    expect(performance.now() - begun).toBeLessThan(1_000);
  });
});
