/**
 * Extended attributes of what is on disk, of links themselves and not of what they lead to. Where
 * the platform or file system has none, there are none to read, and none can be set.
 */
import { createRequire } from 'node:module';
import type { ExtendedAttribute } from '@vatline/core/container/tree';
import { compareBytes } from '@vatline/core/inventory/entry';

type Library = typeof import('@napi-rs/xattr');

/** The label of one machine's own policy, which it gives to each file anew: no part of a file. */
const OF_THE_MACHINE = 'security.selinux';

/** By name in byte order. Throws what the system says, but that it has none. */
export function attributesAt(path: string): ExtendedAttribute[] {
  const library = loaded();
  if (!library) return [];
  return namesAt(library, path)
    .filter((name) => name !== OF_THE_MACHINE)
    .sort(compareBytes)
    .flatMap((name) => {
      const value = library.getAttributeSync(path, name);
      return value ? [{ name, value: new Uint8Array(value) }] : [];
    });
}

/** Sets attributes; gives the names of those that the system does not take. */
export function setAttributes(path: string, attributes: readonly ExtendedAttribute[]): string[] {
  const library = loaded();
  return attributes.flatMap(({ name, value }) => {
    try {
      if (!library) return [name];
      library.setAttributeSync(path, name, value);
      return [];
    } catch {
      return [name];
    }
  });
}

function namesAt(library: Library, path: string): string[] {
  try {
    return library.listAttributesSync(path);
  } catch (error) {
    if (/os error (95|38)\)|not supported|not implemented/i.test(String(error))) return [];
    throw error;
  }
}

let found: Library | null | undefined;

/** The library has no build for every platform; there it is left out of an installation. */
function loaded(): Library | null {
  if (found !== undefined) return found;
  try {
    found = createRequire(import.meta.url)('@napi-rs/xattr') as Library;
  } catch {
    found = null;
  }
  return found;
}
