/** Digests on another thread are those of this one, however the bytes come. */
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, describe, expect, it } from 'vitest';
import type { Stretch } from '@vatline/core/container/bytes';
import { FileSink } from '../src/byte-files.ts';
import { newDigestQueue } from '../src/digest-queue.ts';
import { DigestingSink } from '../src/digesting-sink.ts';

const FEW = 1;
const MANY = 1e9;
const sha256 = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');

/** Files of some sizes laid one after the other, cut into blocks at other places. */
function cut(
  files: readonly Uint8Array[],
  blockBytes: number,
): { bytes: Uint8Array; stretches: Stretch[] }[] {
  const blocks: { bytes: Uint8Array; stretches: Stretch[] }[] = [];
  const all = Buffer.concat(files);
  const ends = files.map((_file, i) => files.slice(0, i + 1).reduce((sum, file) => sum + file.length, 0));
  let file = 0;
  for (let start = 0; start < Math.max(1, all.length); start += blockBytes) {
    const bytes = new Uint8Array(new SharedArrayBuffer(blockBytes));
    bytes.set(all.subarray(start, start + blockBytes));
    const stretches: Stretch[] = [];
    let from = 0;
    while (file < files.length) {
      const end = (ends[file] ?? 0) - start;
      if (end > blockBytes) {
        if (from < blockBytes) stretches.push({ from, to: blockBytes, ends: false });
        break;
      }
      stretches.push({ from, to: end, ends: true });
      from = end;
      file++;
    }
    blocks.push({ bytes, stretches });
  }
  return blocks;
}

describe.each([
  ['this thread', FEW],
  ['a thread of its own', MANY],
])('a queue on %s', (_where, expected) => {
  it('gives the digest of every file, in order', async () => {
    const queue = newDigestQueue(expected);
    const contents = fc.array(fc.uint8Array({ maxLength: 300 }), { minLength: 1, maxLength: 12 });
    await fc.assert(
      fc.asyncProperty(contents, fc.integer({ min: 1, max: 200 }), async (files, blockBytes) => {
        const found = await Promise.all(
          cut(files, blockBytes).map(({ bytes, stretches }) => queue.take(bytes, stretches)),
        );
        expect(found.flat()).toEqual(files.map(sha256));
      }),
      { numRuns: 60 },
    );
    queue.close();
  });
});

describe('a file that is hashed while it is written', () => {
  const folder = mkdtempSync(join(tmpdir(), 'vatline-sink-'));
  afterAll(() => rmSync(folder, { recursive: true }));
  const written = async (name: string, write: (sink: DigestingSink) => Promise<void>) => {
    const path = join(folder, name);
    const file = FileSink.create(path);
    const sink = new DigestingSink(file, path, FEW);
    await write(sink);
    await file.finish();
    const digest = await sink.digest();
    sink.close();
    return { digest, bytes: readFileSync(path) };
  };
  it('has its digest at the end, what was skipped included', async () => {
    const { digest, bytes } = await written('straight', async (sink) => {
      await sink.append(Buffer.from('head'));
      await sink.skip(3_000_000);
      await sink.append(Buffer.from('tail'));
      await sink.skip(5);
    });
    expect(bytes).toHaveLength(3_000_013);
    expect(digest).toBe(sha256(bytes));
  });
  it('is read once more where the writer came back', async () => {
    const { digest, bytes } = await written('back', async (sink) => {
      await sink.append(Buffer.from('0000 and so on'));
      await sink.writeAt(0, Buffer.from('1234'));
      await sink.append(Buffer.from(', to the end'));
    });
    expect(bytes.toString()).toBe('1234 and so on, to the end');
    expect(digest).toBe(sha256(bytes));
  });
  it('that could not be taken is told, not waited for', async () => {
    const queue = newDigestQueue(MANY);
    queue.close();
    await expect(queue.take(new Uint8Array(1), [{ from: 0, to: 1, ends: true }])).rejects.toThrow(
      'has ended',
    );
  });
});
