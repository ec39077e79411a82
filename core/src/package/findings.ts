/** What a packager has to know of a capture before choosing a delivery, each with its evidence. */
import type { Entry } from '../inventory/entry.ts';
import { noFacts, type CaptureFacts } from './capture-facts.ts';
import { classify, isPerUserPath, type EntryClass } from './classify.ts';
import type { CaptureComparison, Dropped } from './noise.ts';
import { findUpdaters } from './updaters.ts';

export type FindingKind =
  | 'driver'
  | 'updater'
  | 'one user only'
  | 'service'
  | 'dependency'
  | 'shell extension'
  | 'certificate'
  | 'profile'
  | 'run-time writes'
  | 'hard-coded path'
  | 'shared library'
  | 'large'
  | 'large file'
  | 'unsigned'
  | 'picture'
  /** With another package; found by comparing the two, not in the capture. */
  | 'clash';

export interface Finding {
  readonly kind: FindingKind;
  readonly title: string;
  /** Why it matters. */
  readonly why: string;
  readonly evidence: readonly Evidence[];
}

export interface Evidence {
  readonly entry: Entry;
  /** What about it, or what to do with it; may be empty. */
  readonly note: string;
}

/** More than this is care for whoever attaches, clones or downloads it. */
export const LARGE_BYTES = 2e9;
const LARGE_FILE_BYTES = 100e6;

/** What was put there or changed, of a comparison. */
export function keptEntries(comparison: CaptureComparison): Entry[] {
  return [
    ...comparison.added,
    ...comparison.changed.map((change) => change.after),
    ...comparison.moved.map((move) => move.to),
  ];
}

/** Bytes of the files among entries. */
export function bytesOf(entries: readonly Entry[]): number {
  return entries.reduce((sum, entry) => sum + (entry.kind === 'file' ? entry.size : 0), 0);
}

interface Words {
  readonly title: string;
  readonly why: string;
}

/** What is said of each, gravest first. */
const words: Readonly<Record<Exclude<FindingKind, 'clash'>, Words>> = {
  driver: {
    title: 'It brings a kernel driver',
    why: 'A driver is loaded before anything can be mounted.',
  },
  updater: {
    title: 'It updates itself',
    why: 'Inside a container its updater fails every night; in an image it makes hosts differ.',
  },
  'one user only': {
    title: 'It installs for one user only',
    why: 'All its programs lie in the profile of whoever installed it; nobody else has it, and it is gone with the profile.',
  },
  profile: {
    title: 'It writes into the profile of who installed it',
    why: 'Other people start without these; set them for everybody or leave them out.',
  },
  service: {
    title: 'It runs a service',
    why: 'It has to be registered and started each time it is attached.',
  },
  dependency: {
    title: 'It needs another application',
    why: 'It points into a folder that it does not bring; that application must be attached too, or travel along.',
  },
  'shell extension': {
    title: 'It extends the shell',
    why: 'The shell loads it into every session, and holds its files open.',
  },
  certificate: {
    title: 'It trusts a certificate for the whole machine',
    why: 'Everybody on the host trusts it, with the application or without.',
  },
  'run-time writes': {
    title: 'It writes beside its programs',
    why: 'A container is read-only there, so it fails or writes elsewhere.',
  },
  'hard-coded path': {
    title: 'It holds paths of the packaging machine',
    why: 'They lead nowhere on a host.',
  },
  'shared library': {
    title: 'It puts libraries where others look for them',
    why: 'Another version of them is what another application gets.',
  },
  unsigned: {
    title: 'It has programs that nobody signed',
    why: 'Hosts that run only signed programs refuse them; nobody vouches for where they come from.',
  },
  picture: {
    title: 'It is shown with a poor picture, or with none',
    why: 'People look for it by its picture; a broken one shows as a blank sheet.',
  },
  large: {
    title: 'It has more than 2 GB',
    why: 'Attaching, cloning or downloading it takes long on every host.',
  },
  'large file': { title: 'It has large files', why: 'Look whether everybody needs them.' },
};

/** All findings of a capture, gravest first; those about programs and pictures rest on what was read from them. */
export function findingsOf(comparison: CaptureComparison, facts: CaptureFacts = noFacts): Finding[] {
  const entries = keptEntries(comparison);
  const classes = classify(entries);
  const folders = programFolders(entries);
  const ofClass = (wanted: EntryClass): Evidence[] =>
    entries.flatMap((entry) => (classes.get(entry) === wanted ? [{ entry, note: '' }] : []));
  const evidence: Partial<Record<FindingKind, readonly Evidence[]>> = {
    driver: ofClass('driver'),
    updater: findUpdaters(entries).map(({ entry, remedy }) => ({ entry, note: remedy })),
    ...perUser(entries, classes),
    service: ofClass('service'),
    dependency: dependencies(entries, folders),
    'shell extension': ofClass('shell extension'),
    certificate: ofClass('certificate'),
    'run-time writes': runTimeWrites(comparison.dropped, folders),
    'hard-coded path': hardCodedPaths(entries),
    'shared library': ofClass('shared library'),
    unsigned: unsignedPrograms(entries, facts),
    picture: poorPictures(entries, facts),
    ...large(entries),
  };
  return typedKeys(words).flatMap((kind) => {
    const found = evidence[kind] ?? [];
    return found.length > 0 ? [{ kind, ...words[kind], evidence: found }] : [];
  });
}

function typedKeys<K extends string>(record: Readonly<Record<K, unknown>>): K[] {
  return Object.keys(record) as K[];
}

/** Of one or the other kind: whether all its programs are for one person, or some of its files and settings. */
function perUser(
  entries: readonly Entry[],
  classes: ReadonlyMap<Entry, EntryClass>,
): Partial<Record<FindingKind, Evidence[]>> {
  const isProgram = (entry: Entry) => entry.kind === 'file' && /\.(exe|bat|cmd|jar|sh)$/i.test(entry.path);
  const programs = entries.filter(isProgram);
  const own = entries.filter((entry) => {
    const found = classes.get(entry);
    return found === 'per-user file' || found === 'user setting';
  });
  const isForOne = programs.length > 0 && programs.every((entry) => classes.get(entry) === 'per-user file');
  // What somebody would open comes first: it says most.
  const evidence = [...own]
    .sort((a, b) => Number(isProgram(b)) - Number(isProgram(a)))
    .map((entry) => ({ entry, note: '' }));
  return { [isForOne ? 'one user only' : 'profile']: evidence };
}

/** Folders, two parts deep at most, that the capture's own files lie in. */
function programFolders(entries: readonly Entry[]): Set<string> {
  const folders = new Set<string>();
  for (const entry of entries) {
    if (entry.kind !== 'file') continue;
    const folder = folderInPrograms(entry.path);
    if (folder) folders.add(folder.toLowerCase());
  }
  return folders;
}

/** `Program files/Name` of a path that lies there. */
function folderInPrograms(path: string): string | undefined {
  const plain = path.replaceAll('\\', '/').replace(/^"?[a-z]:\//i, '');
  return /^(program files( \(x86\))?\/[^/"]+)(\/|"|$)/i.exec(plain)?.[1];
}

function dependencies(entries: readonly Entry[], own: ReadonlySet<string>): Evidence[] {
  return entries.flatMap((entry) => {
    const folder = folderInPrograms(pointsTo(entry));
    if (!folder || own.has(folder.toLowerCase())) return [];
    return [{ entry, note: `points into ${folder}` }];
  });
}

/** The path that an entry starts or names, where it is one that does. */
function pointsTo(entry: Entry): string {
  switch (entry.kind) {
    case 'registry':
      return entry.value;
    case 'service':
      return entry.image;
    case 'task':
      return entry.run;
    case 'shortcut':
    case 'link':
      return entry.target;
    default:
      return '';
  }
}

function runTimeWrites(dropped: readonly Dropped[], own: ReadonlySet<string>): Evidence[] {
  return dropped.flatMap(({ entry, reason }) => {
    const folder = entry.kind === 'file' ? folderInPrograms(entry.path) : undefined;
    return folder && own.has(folder.toLowerCase()) ? [{ entry, note: reason }] : [];
  });
}

function hardCodedPaths(entries: readonly Entry[]): Evidence[] {
  return entries.flatMap((entry) => {
    const path = pointsTo(entry);
    return entry.kind !== 'link' && isPerUserPath(path) ? [{ entry, note: path }] : [];
  });
}

/** Of one or the other kind: that all of it is large, or only some files. */
function large(entries: readonly Entry[]): Partial<Record<FindingKind, Evidence[]>> {
  const files = entries.filter((entry) => entry.kind === 'file').sort((a, b) => b.size - a.size);
  const evidence = files
    .filter((entry) => entry.size >= LARGE_FILE_BYTES)
    .map((entry) => ({ entry, note: '' }));
  if (bytesOf(entries) <= LARGE_BYTES) return { 'large file': evidence };
  const [largest] = files;
  return {
    large: evidence.length > 0 || !largest ? evidence : [{ entry: largest, note: 'the largest of many' }],
  };
}

function unsignedPrograms(entries: readonly Entry[], { programs }: CaptureFacts): Evidence[] {
  return entries.flatMap((entry) => {
    const facts = entry.kind === 'file' ? programs[entry.path] : undefined;
    if (facts === undefined) return [];
    if (typeof facts === 'string') return [{ entry, note: facts }];
    const by = facts.version?.company
      ? `says that it is by ${facts.version.company}`
      : 'says not who made it';
    return facts.carriesSignature ? [] : [{ entry, note: by }];
  });
}

/** Pictures that are broken or odd, and shortcuts to programs that nothing shows. */
function poorPictures(entries: readonly Entry[], { programs, pictures }: CaptureFacts): Evidence[] {
  const hasGood = Object.values(pictures).some((picture) => picture.fault === '');
  return entries.flatMap((entry): Evidence[] => {
    if (entry.kind === 'file') {
      const fault = pictures[entry.path]?.fault;
      return fault ? [{ entry, note: fault }] : [];
    }
    const program = entry.kind === 'shortcut' ? programs[entry.target] : undefined;
    const isBlank = typeof program === 'object' && !program.hasIcon && !hasGood;
    return isBlank ? [{ entry, note: 'neither its program nor its files bring a picture' }] : [];
  });
}
