import { execFileSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, mkdtempSync, readFileSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import type { TreeEntry } from '@vatline/core/image/delta';
import { writeDelta } from '../src/oci-delta.ts';

let folder: string;
beforeEach(() => (folder = mkdtempSync(join(tmpdir(), 'vatline-delta-'))));
afterEach(() => rmSync(folder, { recursive: true, force: true }));

const content = new Map<string, Buffer>();
function file(path: string, text: string | Buffer): TreeEntry {
  const bytes = Buffer.from(text);
  content.set(path, bytes);
  const sha256 = createHash('sha256').update(bytes).digest('hex');
  return { kind: 'file', path, size: bytes.length, sha256, mode: '0640', modified: '2027-01-01T00:00:00Z' };
}
const write = (puts: TreeEntry[], whiteouts: string[] = [], change: object = {}) =>
  writeDelta({
    delta: { puts, whiteouts },
    read: (path) => Promise.resolve([content.get(path) ?? Buffer.alloc(0)]),
    out: join(folder, 'delta'),
    about: { name: 'x', version: '2', publisher: '', entryPoints: [] },
    epoch: 1_800_000_000,
    ...change,
  });
const layerOf = (digest: string) => join(folder, 'delta/blobs/sha256', digest);

describe('a delta layer', () => {
  it('is a gzipped tar that tar lists: whiteouts first, then what is put', async () => {
    const big = Buffer.alloc(700_000, 'abcdefgh');
    const { digest, sizeBytes } = await write(
      [{ kind: 'folder', path: 'd' }, file('d/big', big), { kind: 'link', path: 'd/l', target: 'big' }],
      ['.wh.gone', 'd/.wh.old'],
    );
    const listed = execFileSync('tar', ['tzf', layerOf(digest)], { encoding: 'utf8' })
      .trim()
      .split('\n');
    expect(listed).toEqual(['.wh.gone', 'd/.wh.old', 'd/', 'd/big', 'd/l']);
    expect(readFileSync(layerOf(digest)).length).toBe(sizeBytes);
    expect(
      createHash('sha256')
        .update(readFileSync(layerOf(digest)))
        .digest('hex'),
    ).toBe(digest);
    expect(execFileSync('tar', ['xzOf', layerOf(digest), 'd/big'], { maxBuffer: 1e6 })).toEqual(big);
  });

  it('is the same bytes for the same input', async () => {
    const once = await write([file('a', 'one')]);
    const again = await write([file('a', 'one')]);
    expect(again).toEqual(once);
  });

  it.each([
    ['a size', Buffer.from('longer than it was'), 'has 18 bytes where its inventory names 3'],
    ['a digest', Buffer.from('two'), 'has another digest than its inventory names'],
    ['an end', Buffer.from('o'), 'has 1 bytes where its inventory names 3'],
  ])('is not written when a file has %s that its inventory does not name', async (_what, bytes, message) => {
    const entry = file('a', 'one');
    content.set('a', bytes);
    await expect(write([entry])).rejects.toThrow(message);
    expect(readdirSync(folder)).toEqual([]);
  });

  it('stops when it is cancelled, and leaves what was there before', async () => {
    const { digest } = await write([file('a', 'one')]);
    await expect(write([file('b', 'two')], [], { cancelled: () => true })).rejects.toThrow('cancelled');
    expect(existsSync(layerOf(digest))).toBe(true);
    expect(readdirSync(folder)).toEqual(['delta']);
  });
});
