/** Program files and pictures as the demo makes them, read by our readers and by Debian's icoutils. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { ContainerFault, type ByteSource } from '@vatline/core/container/bytes';
import { readPicture } from '@vatline/core/package/program/picture';
import { readProgram } from '@vatline/core/package/program/program-file';
import { iconFile, tilePng } from '../src/picture-file.ts';
import { programFile, type ProgramFile } from '../src/program-file.ts';

let folder: string;
beforeAll(() => (folder = mkdtempSync(join(tmpdir(), 'vatline-programs-'))));
afterAll(() => rmSync(folder, { recursive: true }));

const program = (change: Partial<ProgramFile> = {}): ProgramFile => ({
  code: new Uint8Array(5_000).fill(7),
  isLibrary: false,
  product: 'Zinnet Browser',
  company: 'Zinnet',
  description: 'Zinnet Browser, the window',
  version: '141.0.2',
  pictures: [16, 48].map((size) => ({ size, png: tilePng('Zinnet', size) })),
  isSigned: true,
  ...change,
});
const source = (bytes: Uint8Array): ByteSource => ({
  size: bytes.length,
  read: (offset, length) =>
    offset < 0 || length < 0 || offset + length > bytes.length
      ? Promise.reject(new ContainerFault('is cut short'))
      : Promise.resolve(bytes.subarray(offset, offset + length)),
});
const saved = (name: string, bytes: Uint8Array): string => {
  const path = join(folder, name);
  writeFileSync(path, bytes);
  return path;
};

describe('a program file', () => {
  it('says who made it, for what, with a picture and a signature', async () => {
    expect(await readProgram(source(programFile(program())))).toEqual({
      processor: 'x64',
      isLibrary: false,
      carriesSignature: true,
      hasIcon: true,
      version: {
        product: 'Zinnet Browser',
        company: 'Zinnet',
        description: 'Zinnet Browser, the window',
        productVersion: '141.0.2',
        fileVersion: '141.0.2',
      },
    });
    expect(
      await readProgram(source(programFile(program({ isLibrary: true, pictures: [], isSigned: false })))),
    ).toMatchObject({ isLibrary: true, hasIcon: false, carriesSignature: false });
  });

  it('is taken for one by general tools, which find the same resources in it', () => {
    const path = saved('zinnet.exe', programFile(program()));
    const listed = execFileSync('wrestool', ['-l', path]).toString();
    expect(listed.match(/--type=\d+/g)).toEqual(['--type=3', '--type=3', '--type=14', '--type=16']);
    const icon = join(folder, 'taken.ico');
    execFileSync('wrestool', ['-x', '--type=14', '-o', icon, path]);
    expect(readPicture(readFileSync(icon))).toMatchObject({
      format: 'ico',
      sizes: [
        { width: 16, height: 16 },
        { width: 48, height: 48 },
      ],
    });
  });

  it('broken anywhere, it is read or refused, and never more than that', async () => {
    const whole = programFile(program({ code: new Uint8Array(512) }));
    await fc.assert(
      fc.asyncProperty(
        fc.array(fc.tuple(fc.nat(2_400), fc.nat(255)), { maxLength: 12 }),
        fc.nat(whole.length),
        async (changes, cut) => {
          const bytes = Uint8Array.from(whole.subarray(0, whole.length - (cut % 900)));
          for (const [at, value] of changes) bytes[at % bytes.length] = value;
          try {
            await readProgram(source(bytes));
          } catch (error) {
            expect(error).toBeInstanceOf(ContainerFault);
          }
        },
      ),
      { numRuns: 400 },
    );
  });

  it('anything else is none', async () => {
    for (const text of ['', 'MZ', 'hello'.repeat(40), `MZ${'\0'.repeat(200)}`])
      expect(await readProgram(source(Buffer.from(text)))).toBeUndefined();
  });
});

describe('a picture', () => {
  const icon = iconFile([16, 256].map((size) => ({ size, png: tilePng('Zinnet', size) })));

  it('tells its sizes, as a general tool does', () => {
    expect(readPicture(icon)).toEqual({
      format: 'ico',
      sizes: [
        { width: 16, height: 16 },
        { width: 256, height: 256 },
      ],
      fault: '',
    });
    const listed = execFileSync('icotool', ['-l', saved('zinnet.ico', icon)]).toString();
    expect([...listed.matchAll(/--width=(\d+)/g)].map((match) => match[1])).toEqual(['16', '256']);
  });

  it("reads a general tool's icon of plain bitmaps", () => {
    const png = saved('tile.png', tilePng('Zinnet', 64));
    const out = join(folder, 'plain.ico');
    execFileSync('icotool', ['-c', '-o', out, png]);
    expect(readPicture(readFileSync(out))).toMatchObject({ sizes: [{ width: 64, height: 64 }], fault: '' });
  });

  it.each([
    ['cut short', icon.subarray(0, 900), /picture 2 lies outside/],
    ['empty', Buffer.from([0, 0, 1, 0, 0, 0]), /holds no picture/],
    ['small', iconFile([{ size: 16, png: tilePng('x', 16) }]), /16 points wide at most/],
    ['not square', tilePng('x', 64, 32), /not square: 64 × 32/],
    ['a PNG cut short', tilePng('x', 64).subarray(0, 60), /cut short/],
  ])('%s', (_what, bytes, fault) => expect(readPicture(bytes)?.fault).toMatch(fault));

  it('anything else is none', () => expect(readPicture(Buffer.from('hello'))).toBeUndefined());
});
