/** Identifiers made from keys, so that the same call again makes the same object. */
import { createHash } from 'node:crypto';

export function idOfMachine(key: string): string {
  return `vm-${digest(key)}`;
}

export function idOfSnapshot(key: string): string {
  return `snap-${digest(key)}`;
}

export function idOfImage(key: string): string {
  return `img-${digest(key)}`;
}

function digest(key: string): string {
  return createHash('sha256').update(key).digest('hex').slice(0, 12);
}
