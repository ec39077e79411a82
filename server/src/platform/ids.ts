import { randomBytes } from 'node:crypto';

/** A new identifier: what it is of, and 60 random bits. */
export function newId(prefix: string): string {
  return `${prefix}-${BigInt(`0x${randomBytes(8).toString('hex')}`)
    .toString(36)
    .padStart(13, '0')
    .slice(1)}`;
}
