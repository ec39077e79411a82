/** What a practice machine has on it, how a step changes that, and the inventory it gives. */
import { sizeOf } from '@vatline/core/image/compare-versions';
import type { Entry } from '@vatline/core/inventory/entry';
import type { Step } from '@vatline/core/image/recipe';
import { usualMinutes } from '@vatline/core/image/describe-step';
import { isSilent } from '@vatline/core/image/silent-command';
import { between, hash32, seededRandom } from '@vatline/core/random';
import { textDigest } from './content.ts';
import { applyChanges, changesOfStep, fileEntry as file, type GuestChange } from './guest-changes.ts';

export interface GuestApplication {
  readonly publisher: string;
  readonly name: string;
  readonly version: string;
}

export interface Guest {
  readonly system: string;
  readonly edition: string;
  readonly releases: readonly string[];
  readonly applications: readonly GuestApplication[];
  readonly agent: string | null;
  readonly joined: string | null;
  readonly scripts: readonly { readonly title: string; readonly text: string }[];
  readonly restartPending: boolean;
  /** What smaller steps and people's hands did, in order. */
  readonly changes?: readonly GuestChange[];
  /** Of a machine made elsewhere: the file of what was on it when it came. */
  readonly imported?: { readonly file: string; readonly diskBytes: number };
}

/** What an application brings besides its files. */
export interface Traits {
  readonly service?: string;
  readonly driver?: string;
  readonly task?: string;
  readonly needsRestart?: boolean;
}

export const emptyGuest: Guest = {
  system: '',
  edition: '',
  releases: [],
  applications: [],
  agent: null,
  joined: null,
  scripts: [],
  restartPending: false,
};

export interface StepOutcome {
  readonly guest: Guest;
  /** Median and 90th percentile of minutes. */
  readonly minutes: readonly [number, number];
  /** What its command ended with; 0 for steps that have none. */
  readonly exitCode?: number;
  readonly error?: string;
}

const RESTART_NEEDED = 3010;

/** Runs a step on a guest. */
export function runGuestStep(guest: Guest, step: Step, traits: ReadonlyMap<string, Traits>): StepOutcome {
  switch (step.kind) {
    case 'operating system':
      return { guest: { ...emptyGuest, system: step.system, edition: step.edition }, minutes: [18, 21] };
    case 'updates':
      return {
        guest: { ...guest, releases: [...guest.releases, step.release], restartPending: true },
        minutes: [14, 18],
      };
    case 'host agent':
      return { guest: { ...guest, agent: step.version }, minutes: [1, 1.2] };
    case 'join directory':
      return { guest: { ...guest, joined: step.ou, restartPending: true }, minutes: [1, 1.3] };
    case 'application':
      return install(guest, step, traits.get(step.name));
    case 'packaged application':
      return { guest: withApplication(guest, step), minutes: [2, 2.6] };
    case 'application by option sheet':
      return { guest: withApplication(guest, step), minutes: [8, 10] };
    case 'script':
      return {
        guest: { ...guest, scripts: [...guest.scripts, { title: step.title, text: step.text }] },
        minutes: [1, 1.2],
      };
    case 'restart':
      return { guest: { ...guest, restartPending: false }, minutes: [3, 3.6] };
    case 'service start': {
      const there = guestInventory(guest, traits).some(
        (entry) => entry.kind === 'service' && entry.name.toLowerCase() === step.name.toLowerCase(),
      );
      if (!there) return { guest, minutes: [1, 1], error: `the machine has no service ${step.name}` };
      return changed(guest, step);
    }
    default:
      return changed(guest, step);
  }
}

/** A step that puts, drops or sets single entries. */
function changed(guest: Guest, step: Step): StepOutcome {
  const usual = usualMinutes[step.kind];
  return {
    guest: {
      ...guest,
      changes: [...(guest.changes ?? []), ...changesOfStep(step)],
      restartPending: guest.restartPending || step.kind === 'guest tools' || step.kind === 'language pack',
    },
    minutes: [usual, usual * 1.2],
  };
}

/** A guest with an application put on it, in place of another version. */
export function withApplication(guest: Guest, { publisher, name, version }: GuestApplication): Guest {
  const others = guest.applications.filter((app) => app.name !== name);
  return { ...guest, applications: [...others, { publisher, name, version }] };
}

function install(
  guest: Guest,
  step: Extract<Step, { kind: 'application' }>,
  traits: Traits | undefined,
): StepOutcome {
  const minutes = 2 + (hash32(step.name) % 50) / 10;
  if (!isSilent(step.command)) {
    return {
      guest,
      minutes: [30, 30],
      error: `the installer of ${step.name} waited 30 minutes for a click; its command has no silent switch such as /quiet`,
    };
  }
  const code = traits?.needsRestart ? RESTART_NEEDED : 0;
  if (!step.exitCodes.includes(code)) {
    return {
      guest,
      minutes: [minutes, minutes],
      error: `the installer of ${step.name} ended with exit ${code}; the step takes ${step.exitCodes.join(' or ')}`,
    };
  }
  const restartPending = guest.restartPending || code === RESTART_NEEDED;
  return {
    guest: { ...withApplication(guest, step), restartPending },
    minutes: [minutes, minutes * 1.25],
    exitCode: code,
  };
}

const systemServices = 38;
const systemDrivers = 24;

/** Months from the media (June 2026) up to a release. */
function monthsUpTo(release: string): string[] {
  const [year = 0, month = 0] = release.slice(0, 7).split('-').map(Number);
  const count = Math.max(0, (year - 2026) * 12 + month - 6);
  return Array.from({ length: count }, (_, i) =>
    new Date(Date.UTC(2026, 6 + i, 1)).toISOString().slice(0, 7),
  );
}

function updatesOf(release: string): Entry[] {
  return monthsUpTo(release).flatMap((month) => [
    { kind: 'update' as const, name: `${month}-quality`, title: `Quality update ${month}` },
    { kind: 'update' as const, name: `${month}-security`, title: `Security update ${month}` },
  ]);
}

/** Each month's updates replace about one library in twenty. */
function changesIn(month: string, library: number): boolean {
  return hash32(`${month} ${library}`) % 20 === 0;
}

/** Bytes that a library is larger by after the updates of a month, up to 3 kB; a few become smaller. */
function grownBy(month: string, library: number): number {
  return (hash32(`${month} ${library} grown`) % 4_000) - 1_000;
}

/**
 * The inventory of a guest: a function of what was done to it, of what was on it when it came from
 * elsewhere, and of nothing else.
 */
export function guestInventory(
  guest: Guest,
  traits: ReadonlyMap<string, Traits>,
  imported: readonly Entry[] = [],
): Entry[] {
  if (guest.imported) return applyChanges(imported, guest.changes ?? []);
  const entries: Entry[] = [...systemEntries(guest)];
  const release = [...guest.releases].sort().at(-1);
  if (release) {
    entries.push(...updatesOf(release));
    if (release.length > 7)
      entries.push({ kind: 'update', name: `${release}-urgent`, title: `Out of band update ${release}` });
  }
  if (guest.agent) {
    entries.push({ kind: 'service', name: 'HostAgent', start: 'automatic', image: 'System/Agent/agent.exe' });
    entries.push(file('System/Agent/agent.exe', 84_000, `agent ${guest.agent}`));
    entries.push({
      kind: 'application',
      publisher: 'Vat Line',
      name: 'Host agent',
      version: guest.agent,
      size: 0,
    });
  }
  if (guest.joined)
    entries.push({
      kind: 'registry',
      key: 'Machine\\System\\Directory',
      name: 'JoinedAt',
      type: 'REG_SZ',
      value: guest.joined,
    });
  for (const script of guest.scripts)
    entries.push(
      file(
        `System/Setup/Scripts/${script.title}.cmd`,
        Buffer.byteLength(script.text),
        '',
        textDigest(script.text),
      ),
    );
  for (const application of guest.applications)
    entries.push(...applicationEntries(application, traits.get(application.name)));
  return applyChanges(entries, guest.changes ?? []);
}

function systemEntries(guest: Guest): Entry[] {
  const random = seededRandom(`${guest.system} ${guest.edition}`);
  const months = monthsUpTo([...guest.releases].sort().at(-1) ?? '');
  const system = `${guest.system} ${guest.edition}`;
  return [
    ...Array.from({ length: systemServices }, (_, i): Entry => ({
      kind: 'service',
      name: `System service ${i + 1}`,
      start: i % 5 === 0 ? 'manual' : 'automatic',
      image: `System/svc${i + 1}.exe`,
    })),
    ...Array.from({ length: systemDrivers }, (_, i): Entry => ({
      kind: 'driver',
      name: `Platform driver ${i + 1}`,
      version: `24.${(i % 3) + 1}`,
    })),
    ...Array.from({ length: 160 }, (_, i) => {
      const onMedia = between(random, 4e3, 4e5);
      const changed = months.findLast((month) => changesIn(month, i));
      return file(
        `System/Library/lib${i + 1}.dll`,
        onMedia + (changed === undefined ? 0 : grownBy(changed, i)),
        `${system} ${i} ${changed ?? 'as on the media'}`,
      );
    }),
    { kind: 'task', name: 'Tidy disk', run: 'System/tidy.exe', schedule: 'weekly' },
  ];
}

/** Bytes of an application's files, between 0.2 and 9 MB by its name. */
function applicationBytes(application: GuestApplication): number {
  return 2e5 + (hash32(application.name) % 880) * 1e4 + (hash32(application.version) % 5_000) * 10;
}

/** Bytes that a guest takes on disk: what its inventory lists, and what a system keeps besides. */
export function diskBytesOf(guest: Guest, entries: readonly Entry[]): number {
  if (guest.imported) return guest.imported.diskBytes;
  if (guest.system === '') return 0;
  return 15e9 + (hash32(`${guest.system} ${guest.edition}`) % 3_000) * 1e6 + sizeOf(entries);
}

/** Bytes a snapshot takes: what was not on the machine before, and at least what one always takes. */
export function snapshotGrowth(before: Guest, after: Guest, traits: ReadonlyMap<string, Traits>): number {
  const [old, now] = [guestInventory(before, traits), guestInventory(after, traits)];
  const system = after.system !== before.system ? diskBytesOf(after, []) : 0;
  const kept = new Set(old.map((entry) => JSON.stringify(entry)));
  return SNAPSHOT_BYTES + system + sizeOf(now.filter((entry) => !kept.has(JSON.stringify(entry))));
}

const SNAPSHOT_BYTES = 60e6;

const PART_BYTES = 8_000;

function applicationEntries(application: GuestApplication, traits: Traits | undefined): Entry[] {
  const { publisher, name, version } = application;
  const total = applicationBytes(application);
  const files = 6 + (hash32(name) % 20);
  const folder = `Program files/${name}`;
  const entries: Entry[] = [{ kind: 'application', publisher, name, version, size: 0 }];
  for (let i = 0; i < files; i++) {
    // Most files of a program stay as they are from version to version.
    const changes = i % 3 === 0;
    const size = i === 0 ? total - (files - 1) * PART_BYTES : PART_BYTES;
    entries.push(
      file(
        `${folder}/${i === 0 ? 'program.exe' : `part-${i}.dll`}`,
        size,
        changes ? `${name} ${version} ${i}` : `${name} ${i}`,
      ),
    );
  }
  entries.push({ kind: 'shortcut', path: `Users/All/Desktop/${name}`, target: `${folder}/program.exe` });
  if (traits?.service)
    entries.push({
      kind: 'service',
      name: traits.service,
      start: 'automatic',
      image: `${folder}/service.exe`,
    });
  if (traits?.driver) entries.push({ kind: 'driver', name: traits.driver, version });
  if (traits?.task)
    entries.push({ kind: 'task', name: traits.task, run: `${folder}/update.exe`, schedule: 'daily 03:10' });
  return entries;
}
