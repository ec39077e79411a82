/**
 * Finds what would update an application behind our back. Inside a read-only container an updater
 * fails every night; in an image it makes hosts differ.
 */
import { entryName, type Entry } from '../inventory/entry.ts';

export interface UpdaterFinding {
  readonly entry: Entry;
  /** How to switch it off. */
  readonly remedy: string;
}

const named = /updat(e|er|or)(?![a-z])|upgrader|autoupdate/i;
const runKey = /\\(run|runonce)$/i;

/** Services, tasks, run keys and programs that look like an updater. */
export function findUpdaters(entries: readonly Entry[]): UpdaterFinding[] {
  return entries.flatMap((entry): UpdaterFinding[] => {
    const remedy = remedyFor(entry);
    return remedy ? [{ entry, remedy }] : [];
  });
}

function remedyFor(entry: Entry): string | undefined {
  switch (entry.kind) {
    case 'service':
      return named.test(entry.name) || named.test(entry.image)
        ? `set service ${entry.name} to disabled`
        : undefined;
    case 'task':
      return named.test(entry.name) || named.test(entry.run) ? `disable task ${entry.name}` : undefined;
    case 'registry':
      return runKey.test(entry.key) && (named.test(entry.name) || named.test(entry.value))
        ? `delete value ${entryName(entry)}`
        : undefined;
    case 'file':
      return /\.(exe|bin|cmd)$/i.test(entry.path) && named.test(entry.path.split('/').pop() ?? '')
        ? `leave ${entry.path} out of the container`
        : undefined;
    default:
      return undefined;
  }
}
