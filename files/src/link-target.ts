import { readlinkSync } from 'node:fs';
import { ContainerFault } from '@vatline/core/container/bytes';
import { utf8Text } from '@vatline/core/container/utf8';

/** Why a link is left out that has no target as text. */
export const NO_TEXT_TARGET = 'is a link with a target that is no UTF-8';

/** Where a link on disk leads; undefined when that is no UTF-8, which no inventory and no format here can keep. */
export function linkTargetAt(path: string): string | undefined {
  try {
    return utf8Text(readlinkSync(path, { encoding: 'buffer' }), 'a target');
  } catch (error) {
    if (error instanceof ContainerFault) return undefined;
    throw error;
  }
}
