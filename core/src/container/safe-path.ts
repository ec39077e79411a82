/** Paths from archives, which nobody may trust. */
import { ok, refuse, type Result } from '../result.ts';

/** Longer paths cannot be opened on common systems (PATH_MAX), so nothing that is to be used has them. */
export const MAX_PATH_BYTES = 4096;

const utf8 = new TextEncoder();

/**
 * The path with one `/` between parts and no `.` parts, relative to where things are unpacked.
 * Names stay as they are: a backslash or a colon is part of a name on the systems that make them.
 * Errors: absolute, climbing out by `..`, a NUL, empty, over 4,096 bytes.
 */
export function safePath(raw: string): Result<string> {
  if (raw.length > MAX_PATH_BYTES || utf8.encode(raw).length > MAX_PATH_BYTES)
    return refuse(
      `${raw.slice(0, 80)}…`,
      `is a path of over ${MAX_PATH_BYTES.toLocaleString('en-GB')} bytes`,
    );
  if (raw.includes('\0')) return refuse(raw, 'holds a NUL character');
  if (raw.startsWith('/')) return refuse(raw, 'is an absolute path');
  const parts = raw.split('/').filter((part) => part !== '' && part !== '.');
  if (parts.includes('..')) return refuse(raw, 'climbs out of the folder it is unpacked in');
  if (parts.length === 0) return refuse(raw, 'is empty');
  return ok(parts.join('/'));
}
