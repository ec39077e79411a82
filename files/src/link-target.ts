import { readlinkSync } from 'node:fs';
import { ContainerFault } from '@vatline/core/container/bytes';
import { utf8Text } from '@vatline/core/container/utf8';
import { InputError } from './input-error.ts';

/** Where a link on disk leads. Throws `InputError` when that is no UTF-8, which no format here can keep. */
export function linkTargetAt(path: string, shown: string): string {
  try {
    return utf8Text(readlinkSync(path, { encoding: 'buffer' }), 'a target');
  } catch (error) {
    if (error instanceof ContainerFault) throw InputError.of(shown, error.message);
    throw error;
  }
}
