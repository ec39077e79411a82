/** Containers that lie: a clear finding, in bounded time and memory, never a crash. */
import fc from 'fast-check';
import { beforeAll, describe, expect, it } from 'vitest';
import { ContainerFault } from '@vatline/core/container/bytes';
import { crc32, crc32c } from '@vatline/core/container/crc';
import { overlappingRanges } from '@vatline/core/container/overlaps';
import { EntryList, limitsFor, refuseUnreadable } from '@vatline/core/container/limits';
import { SquashfsImage } from '@vatline/core/container/squashfs/read';
import { readTrailer } from '@vatline/core/container/squashfs/trailer';
import { writeSquashfs } from '@vatline/core/container/squashfs/write';
import type { Tree, TreeEntry } from '@vatline/core/container/tree';
import { openVhdx } from '@vatline/core/container/vhdx/read';
import { writeVhdx } from '@vatline/core/container/vhdx/write';
import { nodeCodecs } from '../src/codecs.ts';
import { MemorySink, memorySource, memoryTree, storingCodecs } from './memory-bytes.ts';

const MIB = 2 ** 20;
const noise = Uint8Array.from({ length: 300_000 }, (_none, i) => (i * 7919 + (i >> 5)) & 0xff);
const tree = memoryTree({
  'qq/': '',
  'qq/ab': 'alpha',
  'qq/zz/': '',
  'qq/zz/deep.txt': 'deep',
  'large.bin': noise,
});

/** With owners and attributes on a folder and a file. */
const described: Tree = {
  ...tree,
  entries: tree.entries.map((entry) => ({
    ...entry,
    owner: { user: entry.path.length, group: 7 },
    attributes: [
      { name: 'user.note', value: Buffer.from(entry.kind) },
      { name: 'security.capability', value: Uint8Array.from([1, 0, 0, 2]) },
    ],
  })),
};

let squashfs: Uint8Array;
/** The same with owners and attributes. */
let describedImage: Uint8Array;
let vhdx: Uint8Array;

beforeAll(async () => {
  const image = new MemorySink();
  await writeSquashfs(tree, image, storingCodecs, { manifest: '{"name":"A"}', epoch: 1 });
  squashfs = image.bytes;
  const more = new MemorySink();
  await writeSquashfs(described, more, storingCodecs, { manifest: '' });
  describedImage = more.bytes;
  const disk = new MemorySink();
  const small = memoryTree({ 'qq/': '', 'qq/ab': 'alpha', 'large.bin': noise });
  await writeVhdx(small, disk, nodeCodecs, { kind: 'expandable', label: 'A', manifest: '{}' });
  vhdx = disk.bytes;
});

const openSquashfs = (bytes: Uint8Array) => SquashfsImage.open(memorySource(bytes), nodeCodecs);
const openDisk = async (bytes: Uint8Array): Promise<Tree> => (await openVhdx(memorySource(bytes))).volume;

async function readAll(open: Promise<Tree>): Promise<number> {
  const found = await open;
  let bytes = 0;
  for (const entry of found.entries)
    if (entry.kind === 'file') for await (const piece of found.read(entry, 65_536)) bytes += piece.length;
  return bytes;
}

const changed = (bytes: Uint8Array, change: (view: DataView, copy: Uint8Array) => void): Uint8Array => {
  const copy = bytes.slice();
  change(new DataView(copy.buffer), copy);
  return copy;
};

/** Where text stands in the bytes, the last time. */
const find = (bytes: Uint8Array, text: string): number => Buffer.from(bytes).lastIndexOf(text);

/** The reason that reading gives, or how many bytes it gave. */
const outcome = (open: Promise<Tree>): Promise<string> =>
  readAll(open).then(
    (bytes) => `${bytes} bytes`,
    (error: unknown) => {
      if (error instanceof ContainerFault) return error.message;
      throw error;
    },
  );

describe('SquashFS', () => {
  const all = 5 + 4 + 300_000;
  it('whole, it is read, with the manifest behind it', async () => {
    expect(await outcome(openSquashfs(squashfs))).toBe(`${all} bytes`);
    const { superblock } = await openSquashfs(squashfs);
    expect(await readTrailer(memorySource(squashfs), superblock.used)).toBe('{"name":"A"}');
  });
  it.each([
    ['a name that climbs', 'ab', '..', 'has an entry named ".." in qq'],
    ['a name with a slash', 'ab', 'a/', 'has a name with a slash or NUL in qq: "a/"'],
    ['a name twice', 'ab', 'zz', 'has zz twice in qq'],
  ])('%s', async (_what, from, to, why) => {
    const bytes = changed(squashfs, (_view, copy) => copy.set(Buffer.from(to), find(copy, from)));
    expect(await outcome(openSquashfs(bytes))).toBe(why);
  });
  it('a folder that holds itself', async () => {
    const bytes = changed(squashfs, (view, copy) => {
      // The entry's inode becomes the root's: both lie in the first block of the table.
      view.setUint16(find(copy, 'zz') - 8, view.getUint16(32, true), true);
    });
    expect(await outcome(openSquashfs(bytes))).toBe('has a folder that holds itself: qq/zz');
  });
  it.each([
    ['another magic', 0, 4, 1, 'is not a SquashFS image'],
    ['another version', 28, 2, 3, 'is SquashFS 3.0; 4.0 is read'],
    ['another compression', 20, 2, 3, 'is compressed with lzo; zlib, xz, zstd are read'],
    ['an impossible block size', 12, 4, 3, 'has a block size of 3 bytes, which no SquashFS image has'],
    ['more bytes than there are', 40, 4, 2 ** 31, /is cut short: it has \d+ of 2147483648 bytes/],
    ['tables over each other', 72, 4, 5, 'has tables that lie outside of it or over each other'],
  ])('%s', async (_what, offset, width, value, why) => {
    const bytes = changed(squashfs, (view) =>
      width === 2 ? view.setUint16(offset, value, true) : view.setUint32(offset, value, true),
    );
    expect(await outcome(openSquashfs(bytes))).toMatch(why);
  });
  it('a file that claims more than any limit', async () => {
    const bytes = changed(squashfs, (view, copy) => {
      const size = Buffer.alloc(4);
      size.writeUInt32LE(300_000);
      const at = Buffer.from(copy).indexOf(size);
      view.setUint32(at, 0xffffffff, true);
    });
    expect(await outcome(openSquashfs(bytes))).toMatch(/cut short|ends within a record|broken block|claims/);
  });
  it('a block that unpacks to more than it may', async () => {
    const bomb = await nodeCodecs.deflate(new Uint8Array(10_000_000));
    await expect(nodeCodecs.unpack.zlib(bomb, 131_072)).rejects.toThrow(
      'a block unpacks to more than the 131072 bytes it may have',
    );
  });
  it('blocks that lie over each other are seen; the same block twice is not', () => {
    expect(
      overlappingRanges([
        [100, 50],
        [140, 10],
      ]),
    ).toEqual([100, 140]);
    expect(
      overlappingRanges([
        [100, 50],
        [150, 10],
        [100, 50],
      ]),
    ).toBeUndefined();
  });
  it.each([
    ['D25: attributes of a row that there is not', 'row', 'points to attributes 1 of 1'],
    ['D25: an attribute of 4 GiB', 'length', 'has an extended attribute of 4294967295 bytes'],
    ['D25: an attribute of an unknown kind', 'kind', 'has an extended attribute of an unknown kind, 9'],
    [
      'D25: a list without end',
      'count',
      /ends within a record|more extended attributes|broken block|unknown kind/,
    ],
  ])('%s', async (_what, which, why) => {
    const bytes = changed(describedImage, (view, copy) => {
      const table = Number(view.getBigUint64(56, true));
      const name = find(copy, 'note');
      if (which === 'row') view.setUint32(table + 8, 1, true);
      if (which === 'length') view.setUint32(name + 4, 0xffffffff, true);
      if (which === 'kind') view.setUint16(name - 4, 9, true);
      // The rows' block has a length of two bytes before it.
      const rows = Number(view.getBigUint64(table + 16, true)) + 2;
      if (which === 'count') view.setUint32(rows + 8, 0xffffffff, true);
    });
    expect(await outcome(openSquashfs(bytes))).toMatch(why);
  });
  it('D25: holes have a bound of their own, since they take no room; several names count once', async () => {
    const sink = new MemorySink();
    const sparse = memoryTree({ 'a.bin': new Uint8Array(400_000), 'b.bin': 'some' });
    const [first, second] = sparse.entries as [TreeEntry, TreeEntry];
    const entries = [first, second, { ...second, path: 'c.bin', sameAs: 'b.bin' }];
    await writeSquashfs({ ...sparse, entries }, sink, nodeCodecs, { manifest: '' });
    const openWith = (bytes: number, holeBytes: number) =>
      SquashfsImage.open(memorySource(sink.bytes), nodeCodecs, { entries: 9, bytes, holeBytes });
    expect((await openWith(4, 400_000)).entries).toHaveLength(3);
    await expect(openWith(3, 400_000)).rejects.toThrow('claims to unpack to more than');
    await expect(openWith(4, 399_999)).rejects.toThrow('claims to unpack to more than');
  });
  it('D25: what could not be read again is not written', () => {
    const GIB = 2 ** 30;
    const large = { path: 'large', kind: 'file', size: 17 * GIB, mode: 0o644, modified: 0 } as const;
    const same = { ...large, path: 'too', sameAs: 'large' };
    expect(() => refuseUnreadable([large, same], 4096, 17 * GIB)).not.toThrow();
    expect(() => refuseUnreadable([large, same], GIB / 4, 0)).not.toThrow();
    expect(() => refuseUnreadable([large], 4096, 0)).toThrow(
      'would unpack to 18,253,611,008 bytes in 1 entries, which is more than is read of a container of 4,096 bytes',
    );
    expect(() => refuseUnreadable([{ ...large, size: 200 * GIB }], 4096, 200 * GIB)).toThrow('would unpack');
  });
  it('D25: many entries with the same large attributes hold them once', async () => {
    const value = new Uint8Array(60_000);
    const entries = Array.from({ length: 5_000 }, (_none, i) => ({
      ...(tree.entries[0] as Tree['entries'][number]),
      path: `folder-${String(i).padStart(5, '0')}`,
      attributes: [{ name: 'user.large', value }],
    }));
    const sink = new MemorySink();
    await writeSquashfs({ entries, read: tree.read }, sink, nodeCodecs, { manifest: '' });
    const found = await openSquashfs(sink.bytes);
    expect(new Set(found.entries.map(({ attributes }) => attributes)).size).toBe(1);
  });
  it('D25: more attributes than anybody needs are refused', () => {
    const list = new EntryList(limitsFor(0));
    const add = (i: number) =>
      list.add({
        ...(tree.entries[0] as TreeEntry),
        path: `folder-${i}`,
        attributes: [{ name: 'user.large', value: new Uint8Array(65_526) }],
      });
    for (let i = 0; i < 1024; i++) add(i);
    expect(() => add(1024)).toThrow('more than 67108864 bytes of extended attributes (at folder-1024)');
  });
  it.each([
    ['plain', () => squashfs],
    ['with owners and attributes', () => describedImage],
  ])(
    '%s, whatever bytes are changed, it is read or refused',
    async (_what, image) => {
      const whole = image();
      await fc.assert(
        fc.asyncProperty(
          fc.array(fc.tuple(fc.nat(whole.length - 1), fc.nat(255)), { minLength: 1, maxLength: 6 }),
          fc.boolean(),
          async (changes, inTables) => {
            const bytes = changed(whole, (view, copy) => {
              const tables = view.getUint32(64, true);
              for (const [at, value] of changes)
                copy[inTables ? tables + (at % (copy.length - tables)) : at] = value;
            });
            expect(await outcome(openSquashfs(bytes))).toMatch(/./);
          },
        ),
        { numRuns: 400 },
      );
    },
    60_000,
  );
});

describe('VHDX', () => {
  it('whole, it is read', async () => expect(await outcome(openDisk(vhdx))).toBe('300005 bytes'));
  const signed = (at: number, length: number) => (change: (view: DataView) => void) =>
    changed(vhdx, (view, copy) => {
      change(view);
      view.setUint32(at + 4, 0, true);
      view.setUint32(at + 4, crc32c(copy.subarray(at, at + length)), true);
    });
  it('a header with a wrong sum is passed over, two are not', async () => {
    const one = changed(vhdx, (view) => view.setUint8(128 * 1024 + 20, 9));
    expect(await outcome(openDisk(one))).toBe('300005 bytes');
    const both = changed(one, (view) => view.setUint8(64 * 1024 + 20, 9));
    expect(await outcome(openDisk(both))).toBe('has no header whose checksum is right');
  });
  it('a log that was not replayed', async () => {
    const bytes = signed(128 * 1024, 4096)((view) => view.setUint8(128 * 1024 + 48, 1));
    expect(await outcome(openDisk(bytes))).toMatch(/was not closed properly/);
  });
  it('a region outside of the file', async () => {
    const bytes = signed(
      192 * 1024,
      65_536,
    )((view) => view.setUint32(192 * 1024 + 16 + 16, 0xfff00000, true));
    expect(await outcome(openDisk(bytes))).toMatch(/has a region outside of the file/);
  });
  const word = (bytes: Uint8Array, at: number) =>
    Number(new DataView(bytes.buffer, bytes.byteOffset).getBigUint64(at, true));
  const regionTable = 192 * 1024;
  /** Where regions and blocks lie is in the file itself; read when a test runs, after the file is made. */
  const allocation = () => word(vhdx, regionTable + 32);
  const metadata = () => word(vhdx, regionTable + 64);
  const block = (index: number) => word(vhdx, allocation() + index * 8) & ~(MIB - 1);
  it('two blocks in one place', async () => {
    const bytes = changed(vhdx, (view) =>
      view.setBigUint64(allocation() + 8, view.getBigUint64(allocation(), true), true),
    );
    expect(await outcome(openDisk(bytes))).toMatch(/has blocks 0 and 1 in one place/);
  });
  it('a partition table with a wrong sum', async () => {
    const front = block(0) + 512 + 40;
    expect(await outcome(openDisk(changed(vhdx, (view) => view.setUint8(front, 9))))).toBe(
      'has a partition header whose checksum is wrong',
    );
  });
  /** The volume begins with the second block of the disk. */
  const volume = () => block(1);
  const table = (view: DataView) => volume() + view.getUint16(volume() + 14, true) * 512;
  it('a chain that bites its tail, and one that leads out', async () => {
    const chain = (value: number) =>
      changed(vhdx, (view) => view.setUint32(table(view) + 5 * 4, value, true));
    expect(await outcome(openDisk(chain(5)))).toMatch(/longer than \d+ bytes need|in two places/);
    expect(await outcome(openDisk(chain(0x0ffffff0)))).toMatch(/leads outside of the volume/);
    expect(await outcome(openDisk(chain(0)))).toMatch(/leads outside of the volume, to 0/);
  });
  it('FAT16 is refused by name', async () => {
    const bytes = changed(vhdx, (view) => view.setUint16(volume() + 22, 32, true));
    expect(await outcome(openDisk(bytes))).toBe('holds a FAT12 or FAT16 volume; FAT32 is read');
  });
  it('whatever bytes are changed, it is read or refused', async () => {
    const places = fc.oneof(
      fc.integer({ min: 64 * 1024, max: 64 * 1024 + 4096 }),
      fc.integer({ min: 192 * 1024, max: 192 * 1024 + 96 }),
      fc.integer({ min: metadata(), max: metadata() + 300 }),
      fc.integer({ min: allocation(), max: allocation() + 300 }),
      fc.integer({ min: 2 * MIB, max: vhdx.length - 1 }),
    );
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(places, fc.nat(255)), { minLength: 1, maxLength: 6 }),
        async (changes) => {
          const bytes = changed(vhdx, (_view, copy) => {
            for (const [at, value] of changes) copy[at] = value;
          });
          expect(await outcome(openDisk(bytes))).toMatch(/./);
        },
      ),
      { numRuns: 100 },
    );
  });
});

it('sums are those of the standards', () => {
  const digits = new TextEncoder().encode('123456789');
  expect([crc32(digits), crc32c(digits)]).toEqual([0xcbf43926, 0xe3069283]);
});
