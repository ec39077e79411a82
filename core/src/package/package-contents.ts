/** What of a capture goes into the package: the files of its container, and the settings that hosts make when it is attached. */
import type { Entry } from '../inventory/entry.ts';
import { keptEntries } from './findings.ts';
import type { CaptureComparison } from './noise.ts';
import { findUpdaters, type UpdaterFinding } from './updaters.ts';

export interface ContentChoices {
  /** Leaves updaters' programs, tasks and run keys out, and sets their services to disabled. */
  readonly updatersOff: boolean;
}

export interface PackageContents {
  /** Files, links and folders. */
  readonly paths: readonly string[];
  /** Registry values, services, tasks, shortcuts and certificates, as the package sets them. */
  readonly settings: readonly Entry[];
  /** What was done about each updater; none while they are left as they are. */
  readonly switchedOff: readonly UpdaterFinding[];
  /** Kernel drivers and the like that no container can bring. */
  readonly leftOut: readonly Entry[];
}

/** Kinds that a host can set when it attaches a package. */
const settable: ReadonlySet<Entry['kind']> = new Set([
  'registry',
  'service',
  'task',
  'shortcut',
  'certificate',
]);

export function packageContents(comparison: CaptureComparison, choices: ContentChoices): PackageContents {
  const entries = keptEntries(comparison);
  const switchedOff = choices.updatersOff ? findUpdaters(entries) : [];
  const updaters = new Set(switchedOff.map((finding) => finding.entry));
  const paths: string[] = [];
  const settings: Entry[] = [];
  const leftOut: Entry[] = [];
  for (const entry of entries) {
    if (entry.kind === 'file' || entry.kind === 'link' || entry.kind === 'folder') {
      if (!updaters.has(entry)) paths.push(entry.path);
    } else if (updaters.has(entry)) {
      // A service that is known but disabled stays off even if the application asks for it.
      if (entry.kind === 'service') settings.push({ ...entry, start: 'disabled' });
    } else if (isSettable(entry)) settings.push(entry);
    else if (entry.kind === 'driver' || entry.kind === 'service') leftOut.push(entry);
  }
  return { paths, settings, switchedOff, leftOut };
}

function isSettable(entry: Entry): boolean {
  return settable.has(entry.kind) && !(entry.kind === 'service' && /^(boot|system)$/i.test(entry.start));
}
