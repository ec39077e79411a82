/** What each thing that an installer puts on a machine is. */
import type { Entry, FileEntry, RegistryEntry } from '../inventory/entry.ts';
import { findUpdaters } from './updaters.ts';

export const entryClasses = [
  'updater',
  'driver',
  'service',
  'scheduled task',
  'shell extension',
  'certificate',
  'file association',
  'shortcut',
  'per-user file',
  'user setting',
  'machine setting',
  'font',
  'shared library',
  'program file',
  'other',
] as const;
export type EntryClass = (typeof entryClasses)[number];

const userHive = /^(user|hkey_current_user|hkcu|hkey_users)\\/i;
const userFolder = /^users\/(?!all\/|public\/|default\/)[^/]+\//i;
const sharedFolder = /^(system|windows)\/|(^|\/)common files\//i;

/** Whether a path lies in the profile of one person. */
export function isPerUserPath(path: string): boolean {
  return userFolder.test(path.replaceAll('\\', '/').replace(/^[a-z]:\//i, ''));
}

/** The class of each entry; updaters are found over all of them together. */
export function classify(entries: readonly Entry[]): Map<Entry, EntryClass> {
  const updaters = new Set(findUpdaters(entries).map((finding) => finding.entry));
  return new Map(entries.map((entry) => [entry, updaters.has(entry) ? 'updater' : classOf(entry)]));
}

function classOf(entry: Entry): EntryClass {
  switch (entry.kind) {
    case 'file':
    case 'link':
      return classOfFile(entry);
    case 'registry':
      return classOfSetting(entry);
    case 'service':
      return isBootStart(entry.start) ? 'driver' : 'service';
    case 'driver':
      return 'driver';
    case 'task':
      return 'scheduled task';
    case 'shortcut':
      return 'shortcut';
    case 'certificate':
      return 'certificate';
    default:
      return 'other';
  }
}

/** Started by the kernel before anything could be mounted. */
export function isBootStart(start: string): boolean {
  return /^(boot|system)$/i.test(start);
}

function classOfFile({ path }: Pick<FileEntry, 'path'>): EntryClass {
  if (isPerUserPath(path)) return 'per-user file';
  if (/\.sys$/i.test(path)) return 'driver';
  if (/\.(ttf|otf|ttc|fon)$/i.test(path)) return 'font';
  if (/\.(dll|ocx|so(\.\d+)*)$/i.test(path) && sharedFolder.test(path)) return 'shared library';
  return 'program file';
}

function classOfSetting({ key }: RegistryEntry): EntryClass {
  if (userHive.test(key)) return 'user setting';
  if (/\\(shellex|contextmenuhandlers|shelliconoverlayidentifiers|shell extensions)(\\|$)/i.test(key))
    return 'shell extension';
  if (/\\classes\\\.[^\\]+/i.test(key)) return 'file association';
  return 'machine setting';
}
