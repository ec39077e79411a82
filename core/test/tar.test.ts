/** Tar headers as we write them, read back by us and by GNU tar; tars of others, and broken ones. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, describe, expect, it } from 'vitest';
import { tarPadding } from '../src/container/tar/format.ts';
import { readTar, type TarMember } from '../src/container/tar/read.ts';
import { tarHeader, type TarEntry } from '../src/container/tar/write-header.ts';

const work = mkdtempSync(join(tmpdir(), 'vatline-tar-'));
afterAll(() => rmSync(work, { recursive: true, force: true }));

interface Read {
  readonly member: TarMember;
  readonly content: Buffer;
}

/** In pieces of a size that no block has. */
async function* piecesOf(bytes: Uint8Array, size = 77): AsyncGenerator<Uint8Array> {
  for (let at = 0; at < bytes.length; at += size) yield await Promise.resolve(bytes.subarray(at, at + size));
}

async function read(bytes: Uint8Array, size?: number): Promise<Read[]> {
  const found: Read[] = [];
  for await (const { member, content } of readTar(piecesOf(bytes, size))) {
    const parts: Uint8Array[] = [];
    for await (const part of content) parts.push(part.slice());
    found.push({ member, content: Buffer.concat(parts) });
  }
  return found;
}

const END = Buffer.alloc(1024);
const entry = (more: Partial<TarEntry> & { path: string }): TarEntry => ({
  type: 'file',
  size: 0,
  mode: 0o644,
  modified: 0,
  ...more,
});
const tarOf = (...entries: (TarEntry & { content?: Uint8Array })[]) =>
  Buffer.concat([
    ...entries.flatMap(({ content = new Uint8Array(), ...of }) => [
      tarHeader({ ...of, size: content.length }),
      content,
      Buffer.alloc(tarPadding(content.length)),
    ]),
    END,
  ]);

/** A header block with its sum made right again. */
function summed(block: Buffer): Buffer {
  block.fill(' ', 148, 156);
  const sum = block.subarray(0, 512).reduce((total, byte) => total + byte, 0);
  block.write(`${sum.toString(8).padStart(6, '0')}\0 `, 148, 'latin1');
  return block;
}

const name = fc
  .string({ unit: 'grapheme', minLength: 1, maxLength: 150 })
  .map((text) => text.replace(/[\0/]/g, '_').replace(/[\ud800-\udfff]/gu, '?'));
const value = fc.uint8Array({ maxLength: 300 });
const attributes = fc
  .uniqueArray(fc.record({ name: fc.stringMatching(/^user\.[a-z]{1,20}$/), value }), {
    selector: (one) => one.name,
  })
  .map((list) => list.sort((a, b) => (a.name < b.name ? -1 : 1)));
const arbitrary = fc.record({
  path: fc.array(name, { minLength: 1, maxLength: 4 }).map((parts) => parts.join('/')),
  mode: fc.integer({ min: 0, max: 0o7777 }),
  modified: fc.integer({ min: -(2 ** 40), max: 2 ** 40 }),
  nanos: fc.integer({ min: 0, max: 999_999_999 }),
  owner: fc.record({ user: fc.nat(), group: fc.nat() }),
  attributes,
  content: value,
});

describe('D25: what a header of ours says', () => {
  it('is read back as it was, whatever it is', () =>
    fc.assert(
      fc.asyncProperty(
        fc.array(arbitrary, { maxLength: 4 }),
        fc.integer({ min: 1, max: 2000 }),
        async (list, size) => {
          const bytes = tarOf(...list.map((one) => ({ ...entry(one), content: one.content })));
          const found = await read(bytes, size);
          expect(found.map(({ member, content }) => ({ ...member, content: [...content] }))).toEqual(
            list.map(({ content, ...one }) => ({
              ...one,
              kind: 'file',
              kindName: 'special entry',
              size: content.length,
              target: '',
              isSparse: false,
              content: [...content],
            })),
          );
        },
      ),
      { numRuns: 200 },
    ));
  it('is read by GNU tar: dates to the nanosecond and before 1970, large owners, names of any length', () => {
    const file = join(work, 'ours.tar');
    writeFileSync(
      file,
      tarOf(
        entry({
          path: `${'lang/'.repeat(30)}é`,
          modified: 1_709_208_000,
          nanos: 123_456_789,
          owner: { user: 3_000_000, group: 5 },
        }),
        entry({ path: 'early', modified: -2, nanos: 500_000_000 }),
      ),
    );
    const listed = execFileSync('tar', ['--full-time', '--numeric-owner', '-tvf', file], {
      encoding: 'utf8',
      env: { ...process.env, TZ: 'UTC', LC_ALL: 'C.UTF-8' },
    }).split('\n');
    expect(listed[0]).toMatch(/^-rw-r--r-- 3000000\/5 +0 2024-02-29 12:00:00\.123456789 (lang\/){30}é$/);
    // It lists such a date wrongly, and gives it back rightly.
    execFileSync('tar', ['-xf', file, '-C', work, 'early'], { stdio: 'ignore' });
    expect(statSync(join(work, 'early')).mtimeMs).toBe(-1500);
  });
});

describe('tars of others', () => {
  const files = join(work, 'files');
  it.each(['gnu', 'pax', 'ustar', 'v7', 'oldgnu'])('GNU tar in the format %s', async (format) => {
    const path = format === 'gnu' || format === 'pax' ? 'deep/'.repeat(40) : 'deep/';
    execFileSync('mkdir', ['-p', join(files, format, path)]);
    writeFileSync(join(files, format, path, 'file'), 'content');
    execFileSync('ln', [
      '-s',
      'x'.repeat(format === 'v7' || format === 'ustar' ? 90 : 200),
      join(files, format, 'link'),
    ]);
    execFileSync('ln', [join(files, format, path, 'file'), join(files, format, 'again')]);
    const tar = execFileSync('tar', [
      '--format',
      format,
      '--sort=name',
      '-cf',
      '-',
      '-C',
      join(files, format),
      '.',
    ]);
    const found = (await read(tar)).map(({ member: { path: at, kind, target, size } }) => [
      at,
      kind,
      target.length,
      size,
    ]);
    expect(found.slice(0, 2)).toEqual([
      ['./', 'folder', 0, 0],
      ['./again', 'file', 0, 7],
    ]);
    expect(found.at(-1)).toEqual(['./link', 'link', format === 'v7' || format === 'ustar' ? 90 : 200, 0]);
    expect(found.at(-2)).toEqual([`./${path}file`, 'same', './again'.length, 0]);
  });
  it('D23: what stands behind the end is nobody’s', async () => {
    const bytes = Buffer.concat([tarOf(entry({ path: 'a' })), Buffer.from('rubbish '.repeat(1000))]);
    expect((await read(bytes)).map(({ member }) => member.path)).toEqual(['a']);
  });
  it('that end without an end, or are empty, have what they have', async () => {
    expect(await read(Buffer.alloc(0))).toEqual([]);
    expect(await read(tarHeader(entry({ path: 'a' })))).toHaveLength(1);
  });
  it('attributes that libraries of others wrote, of any bytes', async () => {
    const file = join(work, 'attributed');
    writeFileSync(file, '');
    execFileSync('setfattr', ['-n', 'user.bytes', '-v', '0x00ff3d0a', file]);
    const tar = execFileSync('tar', ['--xattrs', '-cf', '-', '-C', work, 'attributed']);
    const [only] = await read(tar);
    expect(only?.member.attributes).toEqual([
      { name: 'user.bytes', value: Uint8Array.from([0, 255, 61, 10]) },
    ]);
  });
});

describe('a tar that is broken', () => {
  const whole = tarOf({ ...entry({ path: 'first' }), content: Buffer.from('abc') });
  const pax = (record: string) => {
    const body = Buffer.from(record);
    const head = Buffer.from(tarHeader(entry({ path: 'PaxHeader', size: body.length })));
    head.write('x', 156, 'latin1');
    return Buffer.concat([summed(head), body, Buffer.alloc(tarPadding(body.length)), whole]);
  };
  const changed = (change: (block: Buffer) => void) => {
    const bytes = Buffer.from(whole);
    change(bytes);
    return bytes;
  };
  it.each([
    ['cut in a header', whole.subarray(0, 300), 'is truncated: it ends in the middle of an entry'],
    ['cut in its content', whole.subarray(0, 514), 'is truncated: it ends in the middle of an entry'],
    [
      'with a wrong sum',
      changed((bytes) => bytes.writeUInt8(1, 3)),
      'has a header of a tar entry with a wrong sum',
    ],
    [
      'with a lone block of zeros',
      Buffer.concat([Buffer.alloc(512), whole]),
      'has a block of zeros in its midst',
    ],
    [
      'with a size that is none',
      changed((bytes) => summed(bytes.fill('9', 124, 135))),
      'has a number that is none in a header',
    ],
    [
      'with a size below 0',
      changed((bytes) => summed(bytes.fill(255, 124, 136))),
      'has a size below 0 in a header',
    ],
    [
      'with a name that is no UTF-8',
      changed((bytes) => summed(bytes.fill(255, 0, 3))),
      'has a name that is no UTF-8',
    ],
    [
      'with a record that says another length',
      pax('99 path=a\n'),
      'has an extended header of a tar entry that is none',
    ],
    [
      'with a record without an end',
      pax('10 path=abc'),
      'has an extended header of a tar entry that is none',
    ],
    ['with a record without a length', pax('path=a\n'), 'has an extended header of a tar entry that is none'],
    ['with a record of no bytes', pax('0 path=a\n'), 'has an extended header of a tar entry that is none'],
    ['with a size in words', pax('12 size=abc\n'), 'has size="abc" in an extended header'],
    ['with a date in words', pax('12 mtime=now'.padEnd(12) + '\n').subarray(0), 'extended header'],
  ])('%s', async (_what, bytes, why) => {
    await expect(read(bytes)).rejects.toThrow(why);
  });
  it('D25: 45,000 attributes in one header, and in one for all entries, cost no more than their bytes', async () => {
    const records = Array.from(
      { length: 45_000 },
      (_none, i) => `20 SCHILY.xattr.${String(i).padStart(5, 'a')}=\n`,
    );
    // A key of 18 characters, its length, the space, the equals sign and the end.
    const body = records.map((record) => record.replace(/^\d+/, String(record.length))).join('');
    const begun = performance.now();
    expect((await read(pax(body)))[0]?.member.attributes).toHaveLength(45_000);
    const forAll = Buffer.from(pax(body).subarray(0, 512));
    forAll.write('g', 156, 'latin1');
    const many = Array.from({ length: 2_000 }, (_none, i) => tarHeader(entry({ path: `f${i}` })));
    const padding = Buffer.alloc(tarPadding(body.length));
    const found = await read(
      Buffer.concat([summed(forAll), Buffer.from(body), padding, ...many, END]),
      65_536,
    );
    expect([found.length, found[9]?.member.attributes]).toEqual([2_000, []]);
    expect(performance.now() - begun).toBeLessThan(5_000);
  });
  it('with an extended header without end is not read into memory', async () => {
    const head = Buffer.from(tarHeader(entry({ path: 'PaxHeader', size: 2 ** 30 })));
    head.write('x', 156, 'latin1');
    await expect(read(summed(head))).rejects.toThrow('an extended header of 1073741824 bytes');
  });
  it('whatever bytes are changed, it is read or refused', () =>
    fc.assert(
      fc.asyncProperty(fc.nat(whole.length - 1), fc.nat(255), async (at, byte) => {
        const bytes = Buffer.from(whole);
        bytes[at] = byte;
        await read(summed(bytes)).catch((error: Error) => expect(error.name).toBe('ContainerFault'));
      }),
      { numRuns: 500 },
    ));
});
