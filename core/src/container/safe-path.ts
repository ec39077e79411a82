/** Paths from archives, which nobody may trust. */
import { ok, refuse, type Result } from '../result.ts';

/**
 * The path with `/` between parts and no `.` parts, relative to where things are unpacked. Errors:
 * absolute (a leading slash or a drive), climbing out by `..`, a NUL, empty.
 */
export function safePath(raw: string): Result<string> {
  const path = raw.replaceAll('\\', '/');
  if (path.includes('\0')) return refuse(raw, 'holds a NUL character');
  if (path.startsWith('/') || /^[A-Za-z]:/.test(path)) return refuse(raw, 'is an absolute path');
  const parts = path.split('/').filter((part) => part !== '' && part !== '.');
  if (parts.includes('..')) return refuse(raw, 'climbs out of the folder it is unpacked in');
  if (parts.length === 0) return refuse(raw, 'is empty');
  return ok(parts.join('/'));
}

/** Whether a link at `path` with this target stays inside the root. */
export function linkStaysInside(path: string, target: string): boolean {
  const to = target.replaceAll('\\', '/');
  if (to.startsWith('/') || /^[A-Za-z]:/.test(to)) return false;
  let depth = path.split('/').length - 1;
  for (const part of to.split('/')) {
    if (part === '..') depth--;
    else if (part !== '' && part !== '.') depth++;
    if (depth < 0) return false;
  }
  return true;
}
