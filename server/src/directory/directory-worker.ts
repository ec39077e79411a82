/** Reading uploaded directories, run in the worker pool for what comes from outside. */
import { readFileSync } from 'node:fs';
import { entriesOf, type DirectoryEntries } from '@vatline/core/directory/entries';
import { readLdif, type LdifFault } from '@vatline/core/directory/ldif';
import type { Fault } from '@vatline/core/result';

/** The entries of an LDIF file, or its faults with their lines. */
export function readDirectory({
  path,
  root,
}: {
  readonly path: string;
  readonly root: string;
}): DirectoryEntries | Fault[] {
  const records = readLdif(readFileSync(path, 'utf8'));
  if (!records.ok) return records.error.map(atItsLine);
  if (records.value.length === 0) return [{ path: 'file', message: 'has no records' }];
  const entries = entriesOf(records.value, root);
  return entries.ok ? entries.value : entries.error.map(atItsLine);
}

function atItsLine({ line, path, message }: LdifFault): Fault {
  return { path: 'file', message: `line ${line}: ${path ? `${path} ` : ''}${message}` };
}
