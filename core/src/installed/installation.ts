/** Installed delivery: an application that the agents of hosts install, by rules that everybody can read. */
import type { SuccessCheck } from '../image/success-check.ts';
import { isSilent } from '../image/silent-command.ts';
import { versionRange } from '../version/range.ts';
import { parseWallTime } from '../time/zone.ts';
import type { Instant } from '../time/instant.ts';
import type { Fault } from '../result.ts';
import { commandFaults } from './command.ts';

export const architectures = ['any', 'x64', 'arm64', 'x86'] as const;
export type Architecture = (typeof architectures)[number];

/** What an exit code of the installer means. */
export const exitMeanings = ['done', 'restart', 'try again'] as const;
export type ExitMeaning = (typeof exitMeanings)[number];

export const restartBehaviours = ['never', 'when asked', 'always'] as const;
export type RestartBehaviour = (typeof restartBehaviours)[number];

/** What can be looked for on a host: as after a step of a recipe, or what a script answers with exit 0. */
export type HostRule =
  Exclude<SuccessCheck, { readonly kind: 'exit code' }> | { readonly kind: 'script'; readonly text: string };

export interface Requirements {
  readonly architecture: Architecture;
  /** Such as `24.2`; empty when any will do. */
  readonly minimumSystem: string;
  readonly diskBytes: number;
  readonly memoryBytes: number;
  readonly rules: readonly HostRule[];
}

export interface NeededInstallation {
  readonly name: string;
  /** Versions that will do, such as `>=5.0 <6`. */
  readonly range: string;
}

/** Local wall times; an end before the start is on the next day. */
export interface QuietHours {
  readonly start: string;
  readonly end: string;
}

export interface Installation {
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
  readonly installCommand: string;
  readonly uninstallCommand: string;
  readonly exitCodes: readonly { readonly code: number; readonly means: ExitMeaning }[];
  readonly timeLimitMinutes: number;
  readonly restart: RestartBehaviour;
  readonly requirements: Requirements;
  /** All must hold for it to count as there. */
  readonly detection: readonly HostRule[];
  readonly dependencies: readonly NeededInstallation[];
  /** Names of applications that it takes the place of. */
  readonly replaces: readonly string[];
  /** From then on quiet hours do not count; null for never. */
  readonly deadline: Instant | null;
  readonly quietHours: QuietHours | null;
  /** What people on the host are told; empty for nothing. */
  readonly notification: string;
  /** Rule group: names of hosts, `*` for any letters. Several are divided by commas. */
  readonly hosts: string;
}

/** Usual values of a new installation of an application. */
export function newInstallation(
  application: Pick<Installation, 'name' | 'publisher' | 'version'>,
): Installation {
  const { name, publisher, version } = application;
  return {
    name,
    publisher,
    version,
    installCommand: '"{folder}\\setup.exe" /quiet /log "{log}"',
    uninstallCommand: '"{folder}\\setup.exe" /uninstall /quiet',
    exitCodes: [
      { code: 0, means: 'done' },
      { code: 3010, means: 'restart' },
      { code: 1618, means: 'try again' },
    ],
    timeLimitMinutes: 30,
    restart: 'when asked',
    requirements: { architecture: 'x64', minimumSystem: '', diskBytes: 0, memoryBytes: 0, rules: [] },
    detection: name && version ? [{ kind: 'version', name, atLeast: version }] : [],
    dependencies: [],
    replaces: [],
    deadline: null,
    quietHours: { start: '07:00', end: '19:00' },
    notification: '',
    hosts: '',
  };
}

/** What is wrong with an installation, each at its field. */
export function installationFaults(own: Installation): Fault[] {
  const faults: Fault[] = [];
  const fault = (path: string, message: string) => faults.push({ path, message });
  for (const field of ['name', 'publisher', 'version', 'hosts'] as const)
    if (own[field].trim() === '') fault(field, 'is empty');
  for (const field of ['installCommand', 'uninstallCommand'] as const) {
    faults.push(...commandFaults(own[field]).map((one) => ({ ...one, path: field })));
    if (own[field].trim() !== '' && !isSilent(own[field]))
      fault(field, 'has no silent switch such as /quiet; it would wait for a click that nobody makes');
  }
  if (!own.exitCodes.some((one) => one.means === 'done')) fault('exitCodes', 'names no code for “done”');
  own.exitCodes.forEach(({ code }, i) => {
    if (own.exitCodes.findIndex((other) => other.code === code) < i)
      fault(`exitCodes.${i}.code`, `${code} is there twice`);
  });
  if (own.detection.length === 0)
    fault(
      'detection',
      'is empty; then nobody knows whether it is there, and it is installed again and again',
    );
  own.dependencies.forEach((one, i) => {
    if (one.name.trim() === '') fault(`dependencies.${i}.name`, 'is empty');
    const range = versionRange(one.range);
    if (!range.ok) fault(`dependencies.${i}.range`, range.error[0]?.message ?? 'is no range');
  });
  if (own.replaces.includes(own.name))
    fault('replaces', 'names itself; its own earlier versions are replaced anyway');
  faults.push(...quietFaults(own.quietHours));
  return faults;
}

function quietFaults(quiet: QuietHours | null): Fault[] {
  if (!quiet) return [];
  const faults = (['start', 'end'] as const).flatMap((field) =>
    parseWallTime(quiet[field]) === undefined
      ? [{ path: `quietHours.${field}`, message: 'is no time such as 07:00' }]
      : [],
  );
  if (faults.length === 0 && quiet.start === quiet.end)
    return [{ path: 'quietHours.end', message: 'is when they start; that would be all day' }];
  return faults;
}
