/** Registry exports on disk. */
import type { RegistryEntry } from '@vatline/core/inventory/entry';
import { parseRegistryExport } from '@vatline/core/package/registry-export';
import type { Result } from '@vatline/core/result';
import { readLines, readPieces } from './lines.ts';

/** Reads an export line by line. Errors name the line; throws `InputError` for a line that is too long. */
export function readRegistryFile(path: string): Result<RegistryEntry[]> {
  return parseRegistryExport(readLines(path, encodingOf(path)));
}

/**
 * UTF-16 with a byte order mark, or UTF-8; what is neither is in the Western code page, as exports
 * of the older form are.
 */
function encodingOf(path: string): 'utf-8' | 'utf-16le' | 'windows-1252' {
  const decoder = new TextDecoder('utf-8', { fatal: true });
  let isFirst = true;
  try {
    for (const piece of readPieces(path)) {
      if (isFirst && piece[0] === 0xff && piece[1] === 0xfe) return 'utf-16le';
      isFirst = false;
      decoder.decode(piece, { stream: true });
    }
    decoder.decode();
    return 'utf-8';
  } catch {
    return 'windows-1252';
  }
}
