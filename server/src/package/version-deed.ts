/** What is done with package versions: whether it may be, and what the journal says of it. */
import { afterDeed, type PackageDeed, type PackageState } from '@vatline/core/package/version-state';
import type { Note } from '../platform/journal.ts';
import { conflict } from '../platform/problem.ts';
import type { VersionRow } from './tables.ts';

/** The state after a deed. Throws a conflict with the reason where it cannot be done. */
export function allowed({ state }: Pick<VersionRow, 'state'>, deed: PackageDeed): PackageState {
  const after = afterDeed(state, deed);
  if (after.ok) return after.value;
  const [{ message = '' } = {}] = after.error;
  throw conflict(message[0]?.toUpperCase() + message.slice(1));
}

export function versionNote(
  { id, package_id }: Pick<VersionRow, 'id' | 'package_id'>,
  text: string,
): Omit<Note, 'at'> {
  return { kind: 'packages', subject: `package-version:${id}`, text, link: `/packages/${package_id}` };
}
