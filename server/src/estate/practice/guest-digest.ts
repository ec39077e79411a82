import { createHash } from 'node:crypto';

/** The name of a guest: of what is written down of it. */
export function guestDigest(json: string): string {
  return createHash('sha256').update(json).digest('hex');
}
