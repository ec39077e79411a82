/** What is in a folder on disk, with names that are text and those that are not told apart. */
import { readdirSync, type Dirent } from 'node:fs';
import { ContainerFault } from '@vatline/core/container/bytes';
import { utf8Text } from '@vatline/core/container/utf8';

export interface FolderChildren {
  readonly children: readonly { readonly name: string; readonly entry: Dirent<Buffer> }[];
  /** Names that are no UTF-8, each other byte as `\xNN`: no inventory and no format here can keep them. */
  readonly unnameable: readonly string[];
}

/** Why such names are left out. */
export const NO_TEXT = 'has a name that is no UTF-8';

/** Throws what the system says. */
export function childrenOf(folder: string): FolderChildren {
  const children: { name: string; entry: Dirent<Buffer> }[] = [];
  const unnameable: string[] = [];
  for (const entry of readdirSync(folder, { withFileTypes: true, encoding: 'buffer' })) {
    try {
      children.push({ name: utf8Text(entry.name, 'a name'), entry });
    } catch (error) {
      if (!(error instanceof ContainerFault)) throw error;
      unnameable.push(shown(entry.name));
    }
  }
  return { children, unnameable };
}

function shown(name: Buffer): string {
  return [...name]
    .map((byte) =>
      byte > 0x1f && byte < 0x7f ? String.fromCharCode(byte) : `\\x${byte.toString(16).padStart(2, '0')}`,
    )
    .join('');
}
