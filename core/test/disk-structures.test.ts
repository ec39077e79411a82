/** Structures on a disk, by hand-worked numbers and by writing and reading back. */
import fc from 'fast-check';
import { crc32 as zlibCrc32 } from 'node:zlib';
import { describe, expect, it } from 'vitest';
import { ContainerFault } from '../src/container/bytes.ts';
import { crc32, crc32c } from '../src/container/crc.ts';
import {
  attribute,
  comparableName,
  entryRecords,
  fatInstant,
  fromFatInstant,
  nameFault,
  RECORD_BYTES,
  recordsFor,
  ShortNames,
  shortRecord,
} from '../src/container/fat32/names.ts';
import { fat32Faults, planVolume, SECTOR } from '../src/container/fat32/plan.ts';
import { parseFolder } from '../src/container/fat32/read-folder.ts';
import { contentOffset, usedStretches } from '../src/container/fat32/volume.ts';
import { findVolume } from '../src/container/gpt/find-volume.ts';
import { diskSectors, FIRST_SECTOR, gptBack, gptFront } from '../src/container/gpt/table.ts';
import { guidBytes, guidFromDigest, guidText } from '../src/container/guid.ts';
import { checkName, EntryList, limitsFor } from '../src/container/limits.ts';
import { StructReader, StructWriter } from '../src/container/struct.ts';
import { tarPadding } from '../src/container/tar/format.ts';
import { tarHeader } from '../src/container/tar/write-header.ts';
import type { TreeEntry } from '../src/container/tree.ts';
import { keptBlocks } from '../src/container/vhdx/write.ts';
import { must } from '../src/result.ts';

const entry = (path: string, size = 0, kind: TreeEntry['kind'] = 'file'): TreeEntry => ({
  path,
  kind,
  size,
  mode: 0o644,
  modified: 1_800_000_000,
});
const ascii = (text: string) => new TextEncoder().encode(text);

describe('checksums and GUIDs', () => {
  it('are those of the check values that the specifications give', () => {
    expect(crc32(ascii('123456789'))).toBe(0xcbf43926);
    expect(crc32c(ascii('123456789'))).toBe(0xe3069283);
  });
  it('CRC-32 is what zlib says, of any bytes', () =>
    fc.assert(
      fc.property(fc.uint8Array({ maxLength: 300 }), (bytes) => {
        expect(crc32(bytes)).toBe(zlibCrc32(bytes));
      }),
    ));
  it('GUIDs have their first three fields the other way round', () => {
    const text = '01020304-0506-0708-090A-0B0C0D0E0F10';
    expect([...guidBytes(text)]).toEqual([4, 3, 2, 1, 6, 5, 8, 7, 9, 10, 11, 12, 13, 14, 15, 16]);
    expect(guidText(guidBytes(text))).toBe(text);
  });
  it('one of a digest says that it is made up: version 8, variant of RFC 9562', () =>
    fc.assert(
      fc.property(fc.uint8Array({ minLength: 32, maxLength: 32 }), (bytes) => {
        const hex = Buffer.from(bytes).toString('hex');
        expect(guidFromDigest(hex)).toMatch(
          /^[0-9a-f]{8}-[0-9a-f]{4}-8[0-9a-f]{3}-[89ab][0-9a-f]{3}-[0-9a-f]{12}$/,
        );
        expect(guidText(guidBytes(guidFromDigest(hex))).toLowerCase()).toBe(guidFromDigest(hex));
      }),
    ));
});

describe('little-endian structures', () => {
  it('read back what was written, field by field', () =>
    fc.assert(
      fc.property(
        fc.nat(255),
        fc.nat(65_535),
        fc.nat(0xffffffff),
        fc.maxSafeNat(),
        (byte, word, long, longest) => {
          const { bytes } = new StructWriter(20).u8(byte).u16(word).u32(long).u64(longest);
          const read = new StructReader(bytes, 'it');
          expect([read.u8(), read.u16(), read.u32(), read.u64(), read.left]).toEqual([
            byte,
            word,
            long,
            longest,
            5,
          ]);
        },
      ),
    ));
  it('end where the bytes end, and hold no number that is none', () => {
    expect(() => new StructReader(new Uint8Array(3), 'the table').u32()).toThrow('the table is cut short');
    const ones = new Uint8Array(8).fill(255);
    expect(() => new StructReader(ones, 'the table').u64()).toThrow(/beyond 2\^53/);
    expect(new StructReader(ones, 'the table').u64orNone()).toBe(-1);
    expect(new StructReader(Uint8Array.of(0xfe, 0xff), 'it').i16()).toBe(-2);
  });
});

describe('names in a FAT folder', () => {
  /** What the writer takes: no fault, and no twin that differs in case only. */
  const names = fc
    .uniqueArray(fc.string({ unit: fc.constantFrom(...'aAbB1_-. é中~+'), minLength: 1, maxLength: 40 }), {
      maxLength: 30,
      selector: comparableName,
    })
    .map((list) => list.filter((name) => nameFault(name) === undefined && !/^\.+$/.test(name)));
  const folderOf = (list: readonly string[]) => {
    const short = new ShortNames(list);
    return list.map((name, i) => ({
      name,
      short: short.for(name),
      isFolder: i % 3 === 0,
      cluster: 70_000 + i,
      size: i % 3 === 0 ? 0 : i * 1000,
      modified: 1_800_000_000 + 2 * i,
    }));
  };
  it('are read back as they were, with all that is known of them', () =>
    fc.assert(
      fc.property(names, (list) => {
        const records = folderOf(list);
        const bytes = Buffer.concat(records.map((record) => entryRecords(record)));
        const { records: found } = parseFolder(bytes);
        expect(found).toEqual(records.map(({ short: _short, ...record }) => record));
      }),
    ));
  it('take the records that were planned for them', () =>
    fc.assert(
      fc.property(names, (list) => {
        for (const record of folderOf(list))
          expect(entryRecords(record)).toHaveLength(recordsFor(record.name) * RECORD_BYTES);
      }),
    ));
  it('have short names that are allowed, and each once', () =>
    fc.assert(
      fc.property(names, (list) => {
        const short = folderOf(list).map((record) => record.short);
        expect(new Set(short).size).toBe(short.length);
        for (const one of short)
          expect(one).toMatch(/^[A-Z0-9_~!#$%&'()@^`{}-]{1,8} *[A-Z0-9_~!#$%&'()@^`{}-]{0,3} *$/);
      }),
    ));
  it('are shortened by hand: six letters, a number, and three of the extension', () => {
    const short = new ShortNames(['README.TXT', 'Program files', 'Programming.html', 'program.a.b']);
    expect(
      ['README.TXT', 'Program files', 'Programming.html', 'program.a.b'].map((name) => short.for(name)),
    ).toEqual(['README  TXT', 'PROGRA~1   ', 'PROGRA~1HTM', 'PROGRA~1B  ']);
  });
  it.each([
    ['a:b', /holds ":"/],
    ['tab\there', /holds "\\t"/],
    ['ends.', /ends in a dot/],
    ['x'.repeat(256), /is 256 characters long/],
  ])('%j is refused', (name, why) => expect(nameFault(name)).toMatch(why));
  it('a label is no entry, and what was deleted is gone', () => {
    const facts = { cluster: 0, size: 0, modified: 1_800_000_000 };
    const deleted = shortRecord('GONE       ', attribute.archive, facts);
    deleted[0] = 0xe5;
    const bytes = Buffer.concat([shortRecord('PACKAGE    ', attribute.volume, facts), deleted]);
    expect(parseFolder(bytes)).toEqual({ records: [], label: 'PACKAGE' });
  });
  it('dates go from 1980 to 2107, by two seconds', () => {
    expect(fatInstant(Date.UTC(2027, 2, 22, 8, 30, 20) / 1000)).toEqual({
      date: (47 << 9) | (3 << 5) | 22,
      time: (8 << 11) | (30 << 5) | 10,
    });
    const back = (seconds: number) => {
      const { date, time } = fatInstant(seconds);
      return fromFatInstant(date, time);
    };
    expect(back(0)).toBe(Date.UTC(1980, 0, 1) / 1000);
    expect(back(2 ** 40)).toBe(Date.UTC(2107, 11, 31, 23, 59, 58) / 1000);
    fc.assert(
      fc.property(fc.integer({ min: 315_532_800, max: 4_354_819_198 }), (seconds) => {
        expect(back(seconds)).toBe(seconds - (seconds % 2));
      }),
    );
  });
});

describe('the plan of a volume', () => {
  it('of one small file, by hand', () => {
    const plan = must(planVolume([entry('a.txt', 700)]));
    // Fewer than 65,541 clusters would be FAT16, so the volume has them; of one sector each it is smallest.
    expect(plan.sectorsPerCluster).toBe(1);
    // The root has a label and two records: 96 bytes, a cluster; the file has two.
    expect(plan.folders.map((one) => [one.cluster, one.clusters, one.bytes])).toEqual([[2, 1, 96]]);
    expect(plan.files.map((one) => [one.cluster, one.clusters, one.bytes])).toEqual([[3, 2, 700]]);
    expect(plan.usedClusters).toBe(3);
    // (65,541 + 4,096) entries of 4 bytes are 545 sectors, rounded up.
    expect(plan.fatSectors).toBe(545);
    expect((plan.reservedSectors + 2 * plan.fatSectors) % 8).toBe(0);
    expect(plan.totalSectors % 2048).toBe(0);
    expect(contentOffset(plan)).toBe((plan.reservedSectors + 1090) * SECTOR);
  });
  it('gives every file a stretch of its own, in order, large enough and inside', () => {
    const sizes = fc.array(fc.nat(200_000), { minLength: 1, maxLength: 60 });
    fc.assert(
      fc.property(sizes, (list) => {
        const plan = must(
          planVolume(list.map((size, i) => entry(`file-${String(i).padStart(3, '0')}`, size))),
        );
        let next = 2;
        for (const { cluster, clusters, bytes } of [...plan.folders, ...plan.files]) {
          expect(clusters).toBe(Math.ceil(bytes / plan.clusterBytes));
          expect(cluster).toBe(clusters === 0 ? 0 : next);
          next += clusters;
        }
        expect(next - 2).toBe(plan.usedClusters);
        expect(plan.usedClusters).toBeLessThanOrEqual(plan.clusters);
        expect(plan.fatSectors * SECTOR).toBeGreaterThanOrEqual((plan.clusters + 2) * 4);
        expect(contentOffset(plan) + plan.clusters * plan.clusterBytes).toBeLessThanOrEqual(
          plan.totalSectors * SECTOR,
        );
      }),
      { numRuns: 60 },
    );
  });
  it('says what is written, and of which blocks a disk consists', () => {
    const plan = must(planVolume([entry('a.bin', 3 * 2 ** 20)]));
    const [front, copy, content] = usedStretches(plan);
    expect(front).toEqual({ from: 0, to: plan.reservedSectors * SECTOR + (plan.usedClusters + 2) * 4 });
    expect(copy?.from).toBe((plan.reservedSectors + plan.fatSectors) * SECTOR);
    expect(content?.to).toBe(contentOffset(plan) + plan.usedClusters * plan.clusterBytes);
    // The table's block, the two with the end of tables and content, two of content, and the last.
    expect(keptBlocks(plan, 'expandable')).toBe(6);
    expect(keptBlocks(plan, 'fixed')).toBe((diskSectors(plan.totalSectors) * SECTOR) / 2 ** 20);
  });
  it('names everything that a volume cannot hold', () => {
    const faults = fat32Faults([
      entry('big', 2 ** 32),
      entry('link', 0, 'link'),
      entry('Read.me'),
      entry('read.ME'),
      entry('a?b'),
    ]);
    expect(faults.map((fault) => fault.path)).toEqual(['big', 'link', 'read.ME', 'a?b']);
  });
});

describe('a partition table', () => {
  const layout = {
    partitionSectors: 70_000,
    name: 'Zinnet Browser',
    diskGuid: '01020304-0506-8708-890A-0B0C0D0E0F10',
    partitionGuid: '11121314-1516-8718-891A-1B1C1D1E1F20',
  };
  const disk = () => {
    const bytes = new Uint8Array(diskSectors(layout.partitionSectors) * SECTOR);
    bytes.set(gptFront(layout), 0);
    const back = gptBack(layout);
    bytes.set(back, bytes.length - back.length);
    return bytes;
  };
  const source = (bytes: Uint8Array) => ({
    size: bytes.length,
    read: (offset: number, length: number) => Promise.resolve(bytes.slice(offset, offset + length)),
  });
  it('leads to its one partition', async () =>
    expect(await findVolume(source(disk()))).toEqual({
      offset: FIRST_SECTOR * SECTOR,
      length: 70_000 * SECTOR,
      name: 'Zinnet Browser',
      scheme: 'GPT',
    }));
  it('has its header twice, each with its own place and that of the other', () => {
    const bytes = disk();
    const last = diskSectors(layout.partitionSectors) - 1;
    const places = (sector: number) => {
      const read = new StructReader(bytes, 'it', sector * SECTOR + 24);
      return [read.u64(), read.u64()];
    };
    expect(places(1)).toEqual([1, last]);
    expect(places(last)).toEqual([last, 1]);
  });
  it('is refused with any bit of header or entries changed', async () => {
    await fc.assert(
      fc.asyncProperty(fc.nat(91), fc.nat(127), fc.nat(7), async (inHeader, inEntry, bit) => {
        for (const at of [SECTOR + inHeader, 2 * SECTOR + inEntry]) {
          const bytes = disk();
          bytes[at] = (bytes[at] ?? 0) ^ (1 << bit);
          await expect(findVolume(source(bytes))).rejects.toBeInstanceOf(ContainerFault);
        }
      }),
      { numRuns: 25 },
    );
  });
});

describe('limits of what is read', () => {
  it('are a hundred times the container, and at least 16 GiB', () => {
    expect(limitsFor(1000).bytes).toBe(16 * 2 ** 30);
    expect(limitsFor(2 ** 30).bytes).toBe(100 * 2 ** 30);
  });
  it('stop at the entry that passes them', () => {
    const list = new EntryList({ entries: 2, bytes: 100, holeBytes: 100 });
    list.add(entry('a', 60));
    expect(() => list.add(entry('b', 41))).toThrow('more than 100 bytes (at b)');
    const many = new EntryList({ entries: 1, bytes: 100, holeBytes: 100 });
    many.add(entry('a'));
    expect(() => many.add(entry('b'))).toThrow('more than 1 entries');
  });
  it.each(['', '.', '..', 'a/b', 'a\0b'])('a name %j is refused', (name) =>
    expect(() => checkName(name, 'folder')).toThrow(ContainerFault),
  );
});

describe('tar headers', () => {
  it('end in whole blocks, whatever the name', () =>
    fc.assert(
      fc.property(
        fc.string({ unit: fc.constantFrom(...'ab/é中 '), minLength: 1, maxLength: 300 }),
        fc.nat(2 ** 40),
        (path, size) => {
          const header = tarHeader({ path, type: 'file', size, mode: 0o644, modified: 1 });
          expect(header.length % 512).toBe(0);
          expect((size + tarPadding(size)) % 512).toBe(0);
          // The sum of a header is of its bytes with spaces in place of the sum.
          const last = header.slice(-512);
          const said = parseInt(String.fromCharCode(...last.slice(148, 154)), 8);
          last.fill(32, 148, 156);
          expect(last.reduce((sum, byte) => sum + byte, 0)).toBe(said);
        },
      ),
    ));
  it('a record of an extended header counts its own length', () => {
    for (const length of [85, 86, 87, 88, 89, 90, 91, 92, 93, 985, 986, 987, 988, 989]) {
      const header = tarHeader({ path: 'é'.repeat(length), type: 'file', size: 0, mode: 0, modified: 0 });
      const text = Buffer.from(header.slice(512)).toString();
      const said = parseInt(text, 10);
      expect(Buffer.from(header.slice(512, 512 + said)).toString()).toBe(
        `${said} path=${'é'.repeat(length)}\n`,
      );
    }
  });
});
