/** Lines of files that may be large or hostile: read in pieces, none longer than a bound. */
import { closeSync, openSync, readSync } from 'node:fs';
import { InputError } from './input-error.ts';

const CHUNK = 1 << 20;
const NEW_LINE = 10;

/**
 * Bytes of the longest line that is read. The longest that anybody needs is a registry value of
 * 1 MB in hex; a file without line ends must not be held whole.
 */
export const MAX_LINE_BYTES = 4 * CHUNK;

/** The lines of a text file. Throws `InputError` naming a line that is too long. */
export function* readLines(
  path: string,
  encoding: 'utf-8' | 'utf-16le' | 'windows-1252' = 'utf-8',
): Generator<string> {
  const decoder = new TextDecoder(encoding);
  let rest = '';
  let number = 0;
  for (const piece of readPieces(path)) {
    const lines = (rest + decoder.decode(piece, { stream: true })).split('\n');
    rest = lines.pop() ?? '';
    yield* lines;
    number += lines.length;
    if (rest.length > MAX_LINE_BYTES) throw tooLong(path, number + 1);
  }
  rest += decoder.decode();
  if (rest !== '') yield rest;
}

/** The lines of a file as bytes, also empty ones but for one at the end. They stay as they are. */
export function* byteLines(path: string): Generator<Buffer> {
  let rest: Buffer = Buffer.alloc(0);
  let number = 0;
  for (const piece of readPieces(path)) {
    const bytes = rest.length === 0 ? piece : Buffer.concat([rest, piece]);
    let start = 0;
    for (let end = bytes.indexOf(NEW_LINE); end >= 0; end = bytes.indexOf(NEW_LINE, start)) {
      yield bytes.subarray(start, end);
      number++;
      start = end + 1;
    }
    rest = bytes.subarray(start);
    if (rest.length > MAX_LINE_BYTES) throw tooLong(path, number + 1);
  }
  if (rest.length > 0) yield rest;
}

/** A file in pieces; each is a new one, since what was made of the last may still be looked at. */
export function* readPieces(path: string): Generator<Buffer> {
  const handle = openSync(path, 'r');
  try {
    for (;;) {
      const piece = Buffer.allocUnsafeSlow(CHUNK);
      const n = readSync(handle, piece);
      if (n === 0) return;
      yield piece.subarray(0, n);
    }
  } finally {
    closeSync(handle);
  }
}

function tooLong(path: string, line: number): InputError {
  return InputError.of(path, `has over ${MAX_LINE_BYTES.toLocaleString('en-GB')} bytes`, `line ${line}`);
}
