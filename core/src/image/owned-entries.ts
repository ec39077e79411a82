/** Which entries of an inventory belong to which application: those in its folder, and what starts from there. */
import type { ApplicationEntry, Entry } from '../inventory/entry.ts';

/** The application of each entry that has one. An application's own entry belongs to it. */
export function ownersOf(
  entries: Iterable<Entry>,
  applications: readonly ApplicationEntry[],
): Map<Entry, ApplicationEntry> {
  const byName = new Map(applications.map((application) => [application.name.toLowerCase(), application]));
  const owners = new Map<Entry, ApplicationEntry>();
  for (const entry of entries) {
    const owner =
      entry.kind === 'application'
        ? byName.get(entry.name.toLowerCase())
        : ownerOfPath(placeOf(entry), byName);
    if (owner) owners.set(entry, owner);
  }
  return owners;
}

/** The path an entry is at or starts from, folders only; empty when it has none. */
function placeOf(entry: Entry): string {
  switch (entry.kind) {
    case 'file':
    case 'link':
      return folderOf(entry.path);
    case 'folder':
      return entry.path;
    case 'shortcut':
      return folderOf(entry.target);
    case 'service':
      return folderOf(entry.image);
    case 'task':
      return folderOf(entry.run);
    default:
      return '';
  }
}

function folderOf(path: string): string {
  const plain = path.replaceAll('\\', '/');
  return plain.slice(0, Math.max(0, plain.lastIndexOf('/')));
}

/** A folder named as the application; the outermost such folder decides. */
function ownerOfPath(
  path: string,
  byName: ReadonlyMap<string, ApplicationEntry>,
): ApplicationEntry | undefined {
  if (path === '' || byName.size === 0) return undefined;
  for (const part of path.toLowerCase().split('/')) {
    const owner = byName.get(part);
    if (owner) return owner;
  }
  return undefined;
}
