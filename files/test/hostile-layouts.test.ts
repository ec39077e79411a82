/** Image layouts that lie: a clear finding, nothing written outside, bounded. */
import { createHash } from 'node:crypto';
import {
  existsSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  readlinkSync,
  rmSync,
  writeFileSync,
} from 'node:fs';

import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { execFileSync } from 'node:child_process';
import { gzipSync } from 'node:zlib';
import tar from 'tar-stream';
import { afterAll, describe, expect, it } from 'vitest';
import { unzippedLayer } from '../src/oci-layout.ts';
import { inspectContainer } from '../src/inspect-container.ts';
import { openContainer } from '../src/open-container.ts';
import { unpackContainer } from '../src/unpack-container.ts';
import { verifyContainer } from '../src/verify-container.ts';

const work = mkdtempSync(join(tmpdir(), 'vatline-hostile-'));
afterAll(() => rmSync(work, { recursive: true, force: true }));

type Header = Partial<tar.Header> & { name: string };
let number = 0;

async function tarOf(entries: readonly [Header, string?][]): Promise<Buffer> {
  const pack = tar.pack();
  for (const [header, content] of entries) pack.entry(header, content ?? '');
  pack.finalize();
  const parts: Buffer[] = [];
  for await (const part of pack) parts.push(part as Buffer);
  return Buffer.concat(parts);
}

/** A layout of these layers, all digests right. */
function layoutOf(
  layers: readonly Buffer[],
  mediaType = 'application/vnd.oci.image.layer.v1.tar+gzip',
  zip: (layer: Buffer) => Buffer = gzipSync,
): string {
  const folder = join(work, `layout-${number++}`);
  const blobs = join(folder, 'blobs', 'sha256');
  mkdirSync(blobs, { recursive: true });
  const put = (content: Buffer | string) => {
    const digest = createHash('sha256').update(content).digest('hex');
    writeFileSync(join(blobs, digest), content);
    return { digest: `sha256:${digest}`, size: Buffer.byteLength(content) };
  };
  const diffIds = layers.map((layer) => `sha256:${createHash('sha256').update(layer).digest('hex')}`);
  const config = put(JSON.stringify({ rootfs: { type: 'layers', diff_ids: diffIds } }));
  const zipped = layers.map((layer) => ({ mediaType, ...put(zip(layer)) }));
  const manifest = put(
    JSON.stringify({ schemaVersion: 2, config: { mediaType: 'x', ...config }, layers: zipped }),
  );
  writeFileSync(join(folder, 'oci-layout'), '{}');
  writeFileSync(join(folder, 'index.json'), JSON.stringify({ manifests: [{ mediaType: 'x', ...manifest }] }));
  return folder;
}

const failures = async (folder: string) =>
  (await verifyContainer(folder)).findings.filter((finding) => !finding.holds).map((finding) => finding.what);

describe('a layer', () => {
  it.each([
    ['that climbs out', [[{ name: '../out' }, 'x']], /climbs out of the folder/],
    ['with an absolute path', [[{ name: '/etc/x' }, 'x']], /is an absolute path/],
    ['with a device', [[{ name: 'd', type: 'character-device' }]], /holds d, a character-device/],
    [
      'with a hard link to nothing',
      [[{ name: 'l', type: 'link', linkname: 'no' }]],
      /hard link to no, which is no file/,
    ],
    [
      'that writes through a circle of links',
      [
        [{ name: 'l', type: 'symlink', linkname: 'm' }],
        [{ name: 'm', type: 'symlink', linkname: 'l' }],
        [{ name: 'l/x' }, 'x'],
      ],
      /has an entry below [lm], a circle of links/,
    ],
    ['with one path 60,000 deep', [[{ name: 'd/'.repeat(60_000) + 'x' }, 'x']], /a path of over 4,096 bytes/],
    [
      'with a sparse file of the GNU kind',
      [[{ name: 's', pax: { 'GNU.sparse.major': '1', 'GNU.sparse.name': 'sparse' } }, 'x']],
      /holds s as a sparse file of the GNU kind, which is not read/,
    ],
  ] as [string, [Header, string?][], RegExp][])('%s', async (_what, entries, why) => {
    const folder = layoutOf([await tarOf([[{ name: 'first' }, 'x'], ...entries])]);
    expect((await failures(folder)).join('\n')).toMatch(why);
    const out = join(work, `out-${number}`);
    await expect(unpackContainer(folder, out)).rejects.toThrow(why);
    expect(existsSync(out)).toBe(false);
  });
  it('in a compression that is not read', async () => {
    const folder = layoutOf(
      [await tarOf([[{ name: 'a' }, 'x']])],
      'application/vnd.oci.image.layer.v1.tar+bzip2',
    );
    expect((await failures(folder)).join('\n')).toContain(
      'tar+bzip2; tar, and tar with gzip or Zstandard, are read',
    );
  });
  describe('D23: in Zstandard', () => {
    const TYPE = 'application/vnd.oci.image.layer.v1.tar+zstd';
    const zstd = (bytes: Buffer, ...options: string[]) =>
      execFileSync('zstd', ['-q', '-c', ...options], { input: bytes, maxBuffer: 1e9 });
    const large = Buffer.from(Array.from({ length: 300_000 }, (_none, i) => `${i * 7919} `).join(''));
    const layer = () =>
      tarOf([
        [{ name: 'a' }, large.toString()],
        [{ name: 'b' }, 'small'],
      ]);
    const digests = async (folder: string) =>
      (await inspectContainer(folder)).entries.map(({ path, digest }) => [path, digest]);
    it.each([
      ['as it comes', (bytes: Buffer) => zstd(bytes)],
      ['packed hard, with a long window', (bytes: Buffer) => zstd(bytes, '-19', '--long=27')],
      [
        'in two frames, with one between them that is to be passed over',
        (bytes: Buffer) =>
          Buffer.concat([
            zstd(bytes.subarray(0, 1_000_000)),
            Buffer.from([0x50, 0x2a, 0x4d, 0x18, 3, 0, 0, 0, 1, 2, 3]),
            zstd(bytes.subarray(1_000_000)),
          ]),
      ],
    ])('%s', async (_what, zip) => {
      const folder = layoutOf([await layer()], TYPE, zip);
      expect(await failures(folder)).toEqual([]);
      const sha256 = (bytes: Buffer | string) => createHash('sha256').update(bytes).digest('hex');
      expect(await digests(folder)).toEqual([
        ['a', sha256(large)],
        ['b', sha256('small')],
      ]);
    });
    it.each([
      ['cut short', (bytes: Buffer) => zstd(bytes).subarray(0, 200_000), 'is cut short'],
      ['that is none', () => Buffer.from('rubbish '.repeat(1_000)), 'is no sound Zstandard'],
      [
        'with a broken block',
        (bytes: Buffer) => {
          const packed = Buffer.from(zstd(bytes, '--no-check'));
          return packed.fill(0xff, 50_000, 60_000);
        },
        'is no sound Zstandard',
      ],
      ['with a window of 2 GiB', () => Buffer.from([0x28, 0xb5, 0x2f, 0xfd, 0, 0xa8, 1, 0, 0]), 'Zstandard'],
    ])('%s', async (_what, zip, why) => {
      const begun = performance.now();
      expect((await failures(layoutOf([await layer()], TYPE, zip))).join('\n')).toContain(why);
      expect(performance.now() - begun).toBeLessThan(5_000);
    });
    it('that unpacks to more than it may is not read further, and gives its memory back', async () => {
      const folder = layoutOf([Buffer.alloc(50_000_000)], TYPE, zstd);
      const blob = zstd(Buffer.alloc(50_000_000));
      const digest = `sha256:${createHash('sha256').update(blob).digest('hex')}`;
      const before = process.memoryUsage().rss;
      for (let i = 0; i < 30; i++) {
        let read = 0;
        const reading = (async () => {
          for await (const piece of unzippedLayer(folder, { mediaType: TYPE, digest, size: 1 }, 1_000_000))
            read += piece.length;
        })();
        await expect(reading).rejects.toThrow('unpacks to more than 1000000 bytes');
        expect(read).toBeLessThanOrEqual(1_000_000);
      }
      expect(process.memoryUsage().rss - before).toBeLessThan(150e6);
    });
  });
  it('D23: bytes behind the end of a tar are nobody’s', async () => {
    const folder = layoutOf([
      Buffer.concat([await tarOf([[{ name: 'a' }, 'x']]), Buffer.from('rubbish'.repeat(999))]),
    ]);
    expect(await failures(folder)).toEqual([]);
    expect((await inspectContainer(folder)).entries.map(({ path }) => path)).toEqual(['a']);
  });
  it('that unpacks to more than it may is not read further', async () => {
    const folder = layoutOf([Buffer.alloc(50_000_000)]);
    const digest = createHash('sha256')
      .update(gzipSync(Buffer.alloc(50_000_000)))
      .digest('hex');
    const layer = {
      mediaType: 'application/vnd.oci.image.layer.v1.tar+gzip',
      digest: `sha256:${digest}`,
      size: 1,
    };
    let read = 0;
    const reading = (async () => {
      for await (const piece of unzippedLayer(folder, layer, 1_000_000)) read += piece.length;
    })();
    await expect(reading).rejects.toThrow(
      'layer: unpacks to more than 1000000 bytes; it is not read further',
    );
    expect(read).toBeLessThanOrEqual(1_000_000);
  });
  it('that is not what the config says', async () => {
    const folder = layoutOf([await tarOf([[{ name: 'a' }, 'x']])]);
    const other = layoutOf([await tarOf([[{ name: 'b' }, 'y']])]);
    expect(await failures(folder)).toEqual([]);
    rmSync(join(folder, 'index.json'));
    writeFileSync(
      join(folder, 'index.json'),
      JSON.stringify({ manifests: [{ digest: 'sha256:../../etc' }] }),
    );
    expect((await failures(folder)).join('\n')).toContain('is not a sha256 digest');
    expect(await failures(other)).toEqual([]);
  });
});

it('an upper layer takes away, replaces and makes opaque', async () => {
  const folder = layoutOf([
    await tarOf([
      [{ name: 'a/one' }, '1'],
      [{ name: 'a/two' }, '2'],
      [{ name: 'b/old' }, 'o'],
      [{ name: 'c' }, 'c'],
    ]),
    await tarOf([
      [{ name: 'a/.wh.one' }],
      [{ name: 'b/.wh..wh..opq' }],
      [{ name: 'b/new' }, 'n'],
      [{ name: 'c' }, 'cc'],
    ]),
  ]);
  const out = join(work, 'overlay');
  expect(await unpackContainer(folder, out)).toMatchObject({ files: 3, bytes: 4 });
  expect(['a/one', 'a/two', 'b/old', 'b/new', 'c'].map((path) => existsSync(join(out, path)))).toEqual([
    false,
    true,
    false,
    true,
    true,
  ]);
});

describe('D23: layers over each other', () => {
  const treeOf = async (...layers: [Header, string?][][]) => {
    const container = await openContainer(layoutOf(await Promise.all(layers.map(tarOf))));
    container.close();
    return container.tree.entries.map((entry) => (entry.kind === 'folder' ? `${entry.path}/` : entry.path));
  };

  it('a whiteout hides what lower layers brought and nothing of its own, wherever it stands', async () => {
    const lower: [Header, string?][] = [
      [{ name: 'a/old' }, 'x'],
      [{ name: 'b' }, 'x'],
    ];
    expect(await treeOf(lower, [[{ name: 'a/new' }, 'x'], [{ name: 'a/.wh..wh..opq' }]])).toEqual([
      'a/',
      'a/new',
      'b',
    ]);
    expect(await treeOf(lower, [[{ name: 'b' }, 'y'], [{ name: '.wh.b' }]])).toEqual(['a/', 'a/old', 'b']);
    expect(await treeOf(lower, [[{ name: 'a/new' }, 'x'], [{ name: '.wh.a' }]])).toEqual([
      'a/',
      'a/new',
      'b',
    ]);
    expect(await treeOf(lower, [[{ name: '.wh.a' }]], [[{ name: 'a/again' }, 'x']])).toEqual([
      'a/',
      'a/again',
      'b',
    ]);
    expect(await treeOf(lower, [[{ name: 'none/.wh.x' }]])).toEqual(['a/', 'a/old', 'b']);
    expect(await treeOf(lower, [[{ name: '.wh.b' }], [{ name: '.wh.a' }]])).toEqual([]);
  });

  it('entries below a link go where it leads, inside; a hard link to a link is a link', async () => {
    const layout = layoutOf([
      await tarOf([
        [{ name: 'usr/lib', type: 'directory' }],
        [{ name: 'lib', type: 'symlink', linkname: 'usr/lib' }],
        [{ name: 'lib/x' }, 'x'],
        [{ name: 'out', type: 'symlink', linkname: '/../..' }],
        [{ name: 'out/y' }, 'y'],
        [{ name: 'same', type: 'link', linkname: 'lib' }],
      ]),
    ]);
    const out = join(work, `through-${number}`);
    await unpackContainer(layout, out);
    expect(readFileSync(join(out, 'usr/lib/x'), 'utf8')).toBe('x');
    expect(readFileSync(join(out, 'y'), 'utf8')).toBe('y');
    expect([readlinkSync(join(out, 'lib')), readlinkSync(join(out, 'same'))]).toEqual(['usr/lib', 'usr/lib']);
  });

  it('several images, and documents of other shapes, are refused in words', async () => {
    const folder = layoutOf([await tarOf([[{ name: 'a' }, 'x']])]);
    const index = join(folder, 'index.json');
    const good = JSON.parse(readFileSync(index, 'utf8')) as { manifests: object[] };
    const [first] = good.manifests;
    const tagged = (tag: string) => ({ ...first, annotations: { 'org.opencontainers.image.ref.name': tag } });
    const cases: [unknown, RegExp][] = [
      [{ manifests: [tagged('one'), tagged('two')] }, /holds 2 images \(one, two\)/],
      [null, /it is no object/],
      [{ manifests: [null] }, /manifests\.0 is no descriptor/],
      [{ manifests: [{ digest: 7 }] }, /7 is not a sha256 digest/],
      [{ manifests: [{ ...first, annotations: { x: 1 } }] }, /annotations are no texts/],
      [{ manifests: [{ ...first, size: -1 }] }, /has a size that is none/],
      [{ manifests: [] }, /manifests is no list of descriptors/],
    ];
    for (const [document, why] of cases) {
      writeFileSync(index, JSON.stringify(document));
      await expect(openContainer(folder)).rejects.toThrow(why);
      await expect(openContainer(folder)).rejects.toHaveProperty('name', 'InputError');
    }
  });
});
