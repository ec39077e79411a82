/** One header block of a tar, read and judged. */
import { ContainerFault } from '../bytes.ts';
import { utf8Text } from '../utf8.ts';
import { TAR_BLOCK } from './format.ts';

/** The fields of a header, before extended ones are laid over them. */
export interface RawHeader {
  readonly flag: string;
  /** Both throw `ContainerFault` where they are no UTF-8, which does not matter when others count. */
  readonly path: () => string;
  readonly target: () => string;
  readonly size: number;
  readonly mode: number;
  readonly modified: number;
  readonly user: number;
  readonly group: number;
}

/** Throws `ContainerFault` for a block that is no header. */
export function readHeader(block: Uint8Array): RawHeader {
  checkSum(block);
  return {
    flag: String.fromCharCode(block[156] ?? 0),
    path: () => pathIn(block),
    target: () => textAt(block, 157, 100, 'a target of a link'),
    size: notNegative(numberAt(block, 124, 12), 'a size'),
    mode: numberAt(block, 100, 8),
    modified: numberAt(block, 136, 12),
    user: numberAt(block, 108, 8),
    group: numberAt(block, 116, 8),
  };
}

/** The sum of all bytes with spaces where it stands itself; old tools added them up as signed. */
function checkSum(block: Uint8Array): void {
  let [unsigned, signed] = [0, 0];
  for (let i = 0; i < TAR_BLOCK; i++) {
    const byte = i >= 148 && i < 156 ? 32 : (block[i] ?? 0);
    unsigned += byte;
    signed += byte > 127 ? byte - 256 : byte;
  }
  const stated = numberAt(block, 148, 8);
  if (stated !== unsigned && stated !== signed)
    throw new ContainerFault('has a header of a tar entry with a wrong sum');
}

/** The name is in two fields then; GNU tar writes other things into the second. */
function isPosix(block: Uint8Array): boolean {
  return String.fromCharCode(...block.subarray(257, 263)) === 'ustar\0';
}

function pathIn(block: Uint8Array): string {
  const prefix = isPosix(block) ? textAt(block, 345, 155, 'a name') : '';
  const name = textAt(block, 0, 100, 'a name');
  return prefix === '' ? name : `${prefix}/${name}`;
}

function textAt(block: Uint8Array, at: number, width: number, what: string): string {
  const field = block.subarray(at, at + width);
  const end = field.indexOf(0);
  return utf8Text(end < 0 ? field : field.subarray(0, end), what);
}

/** Octal digits; or, where the first bit is set, a binary number in two's complement (base 256). */
function numberAt(block: Uint8Array, at: number, width: number): number {
  const field = block.subarray(at, at + width);
  const first = field[0] ?? 0;
  if (first & 0x80) {
    let value = first & 0x40 ? -1n : 0n;
    for (const [i, byte] of field.entries())
      value = (value << 8n) | BigInt(i === 0 && !(first & 0x40) ? byte & 0x7f : byte);
    const number = Number(value);
    if (!Number.isSafeInteger(number))
      throw new ContainerFault('has a number beyond 2^53 in a header of a tar entry');
    return number;
  }
  const text = String.fromCharCode(...field)
    .replace(/\0[^]*$/, '')
    .trim();
  if (text === '') return 0;
  if (!/^[0-7]+$/.test(text))
    throw new ContainerFault('has a number that is none in a header of a tar entry');
  return parseInt(text, 8);
}

function notNegative(value: number, what: string): number {
  if (value < 0) throw new ContainerFault(`has ${what} below 0 in a header of a tar entry`);
  return value;
}
