/**
 * The manifest that a capture suggests, with where each part was found, so that the packager can
 * confirm it: uninstall entries, shortcuts, version resources, file associations, protocols,
 * environment variables, folders of other applications.
 */
import {
  entryName,
  type ApplicationEntry,
  type Entry,
  type RegistryEntry,
  type ShortcutEntry,
} from '../inventory/entry.ts';
import type { CaptureFacts } from './capture-facts.ts';
import { keptEntries, type Finding } from './findings.ts';
import {
  usualAttach,
  type Dependency,
  type EntryPoint,
  type EnvironmentVariable,
  type PackageManifest,
} from '../container/manifest.ts';
import type { CaptureComparison } from './noise.ts';
import type { ProgramFacts } from './program/program-file.ts';

/** What whoever began the capture said of it. */
export interface SaidOfCapture {
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
  readonly licence?: string | undefined;
}

/** What the library knows of other packages. */
export interface KnownPackage {
  readonly name: string;
  readonly version: string;
}

export interface GuessedManifest {
  readonly manifest: PackageManifest;
  /** Where a part comes from, by its path in the manifest; what is not here was not guessed. */
  readonly sources: Readonly<Record<string, string>>;
}

interface Guess {
  readonly sources: Record<string, string>;
  readonly entries: readonly Entry[];
  readonly facts: CaptureFacts;
}

export function guessManifest(
  comparison: CaptureComparison,
  facts: CaptureFacts,
  findings: readonly Finding[],
  said: SaidOfCapture,
  library: readonly KnownPackage[],
): GuessedManifest {
  const guess: Guess = { sources: {}, entries: keptEntries(comparison), facts };
  const entryPoints = entryPointsIn(guess);
  const program = programOf(facts, entryPoints[0]?.path);
  const manifest: PackageManifest = {
    ...identityIn(guess, said, program),
    ...(said.licence ? { licence: noted(guess, 'licence', 'the installer library', said.licence) } : {}),
    ...describedBy(guess, program, entryPoints[0]?.path ?? ''),
    entryPoints,
    dependencies: dependenciesIn(guess, findings, library),
    environment: environmentIn(guess),
    attach: usualAttach,
  };
  return { manifest, sources: guess.sources };
}

function noted<T>({ sources }: Guess, path: string, source: string, value: T): T {
  sources[path] = source;
  return value;
}

function programOf(facts: CaptureFacts, path: string | undefined): ProgramFacts | undefined {
  const program = path === undefined ? undefined : facts.programs[path];
  return typeof program === 'object' ? program : undefined;
}

/** The uninstall entry says it best, then the version resource, then whoever began the capture. */
function identityIn(
  guess: Guess,
  said: SaidOfCapture,
  program: ProgramFacts | undefined,
): Pick<PackageManifest, 'name' | 'publisher' | 'version'> {
  const applications = guess.entries.filter(
    (entry): entry is ApplicationEntry => entry.kind === 'application',
  );
  const named = applications.find((entry) => entry.name === said.name) ?? applications[0];
  const resource = program?.version;
  const part = (field: 'name' | 'publisher' | 'version', fromResource: string | undefined): string => {
    if (named?.[field]) return noted(guess, field, 'the uninstall entry', named[field]);
    if (fromResource) return noted(guess, field, 'the version resource', fromResource);
    return said[field];
  };
  return {
    name: part('name', resource?.product),
    publisher: part('publisher', resource?.company),
    version: part('version', resource?.productVersion),
  };
}

function describedBy(
  guess: Guess,
  program: ProgramFacts | undefined,
  path: string,
): { description?: string } {
  const description = program?.version?.description;
  return description
    ? { description: noted(guess, 'description', `the version resource of ${path}`, description) }
    : {};
}

/** One for each program that a shortcut opens; what is named later for the same program is left out. */
function entryPointsIn(guess: Guess): EntryPoint[] {
  const files = new Set(guess.entries.flatMap((entry) => (entry.kind === 'file' ? [entry.path] : [])));
  const shortcuts = new Map<string, ShortcutEntry>();
  for (const entry of guess.entries)
    if (entry.kind === 'shortcut' && files.has(entry.target) && !shortcuts.has(entry.target))
      shortcuts.set(entry.target, entry);
  const programs = [...shortcuts.keys()];
  const handlers = handlersIn(guess.entries);
  return [...shortcuts.values()].map((shortcut, i): EntryPoint => {
    const path = shortcut.target;
    const own = (handler: { readonly program: string | undefined }) =>
      handler.program === path || (handler.program === undefined && path === programs[0]);
    const at = (field: string) => `entryPoints.${i}.${field}`;
    const associations = handlers.associations.filter(own);
    const protocols = handlers.protocols.filter(own);
    const icon = pictureFor(guess, path);
    guess.sources[at('path')] = `the shortcut ${shortcut.path}`;
    return {
      name: noted(
        guess,
        at('name'),
        `the shortcut ${shortcut.path}`,
        lastPart(shortcut.path).replace(/\.lnk$/i, ''),
      ),
      path,
      ...(icon ? { icon: noted(guess, at('icon'), 'the pictures among its files', icon) } : {}),
      ...(associations.length > 0
        ? {
            associations: noted(
              guess,
              at('associations'),
              'registered classes',
              associations.map((one) => one.name),
            ),
          }
        : {}),
      ...(protocols.length > 0
        ? {
            protocols: noted(
              guess,
              at('protocols'),
              'registered protocols',
              protocols.map((one) => one.name),
            ),
          }
        : {}),
    };
  });
}

interface Handler {
  readonly name: string;
  /** Path of the program that handles it, where the class says so. */
  readonly program: string | undefined;
}

/** What registered classes say is opened by what: endings of files, and protocols. */
function handlersIn(entries: readonly Entry[]): { associations: Handler[]; protocols: Handler[] } {
  const values = entries.filter((entry): entry is RegistryEntry => entry.kind === 'registry');
  const programs = new Map<string, string>();
  for (const value of values) {
    const className = /\\classes\\([^\\]+)\\shell\\open\\command$/i.exec(value.key)?.[1];
    if (className !== undefined && value.name === '')
      programs.set(className.toLowerCase(), programIn(value.value));
  }
  const associations: Handler[] = [];
  const protocols: Handler[] = [];
  for (const value of values) {
    const name = /\\classes\\([^\\]+)$/i.exec(value.key)?.[1]?.toLowerCase();
    if (name === undefined) continue;
    if (name.startsWith('.') && value.name === '')
      associations.push({ name, program: programs.get(value.value.toLowerCase()) });
    else if (/^url protocol$/i.test(value.name)) protocols.push({ name, program: programs.get(name) });
  }
  return { associations, protocols };
}

/** The program of a command line, whose path may stand in quotes. */
function programIn(command: string): string {
  return (/^"([^"]+)"/.exec(command)?.[1] ?? command.split(' ')[0] ?? '').replaceAll('\\', '/');
}

/** A picture named as the program, else one in its folder, else any good one. */
function pictureFor({ facts }: Guess, program: string): string | undefined {
  const good = Object.keys(facts.pictures).filter((path) => facts.pictures[path]?.fault === '');
  const stem = lastPart(program)
    .replace(/\.[^.]*$/, '')
    .toLowerCase();
  const folder = program.slice(0, program.lastIndexOf('/') + 1);
  return (
    good.find((path) => lastPart(path).toLowerCase().startsWith(`${stem}.`)) ??
    good.find((path) => path.startsWith(folder)) ??
    good[0]
  );
}

function environmentIn(guess: Guess): EnvironmentVariable[] {
  return guess.entries.flatMap((entry) =>
    entry.kind === 'registry' && /\\environment$/i.test(entry.key) && entry.name !== ''
      ? [
          noted(guess, `environment.${entry.name}`, entryName(entry), {
            name: entry.name,
            value: entry.value,
          }),
        ]
      : [],
  );
}

/** Folders of other applications that it points into, each once. */
function dependenciesIn(
  guess: Guess,
  findings: readonly Finding[],
  library: readonly KnownPackage[],
): Dependency[] {
  const evidence = findings.find((finding) => finding.kind === 'dependency')?.evidence ?? [];
  const names = new Map<string, Entry>();
  for (const { entry, note } of evidence) {
    const name = lastPart(note.replace(/^points into /, ''));
    if (!names.has(name)) names.set(name, entry);
  }
  return [...names].map(([name, entry]) => {
    const known = library.find((one) => one.name.toLowerCase() === name.toLowerCase());
    const range = known ? `>=${known.version}` : '*';
    return noted(guess, `dependencies.${name}`, entryName(entry), { name: known?.name ?? name, range });
  });
}

function lastPart(path: string): string {
  return path.slice(path.lastIndexOf('/') + 1);
}
