/** What the agent of a host makes of an installation: whether it applies, is there already, and when it may begin. */
import type { Entry } from '../inventory/entry.ts';
import { describeSuccessCheck, failedCheck } from '../image/success-check.ts';
import { addDays, instantOfWall, parseWallTime, wallClock } from '../time/zone.ts';
import type { Instant } from '../time/instant.ts';
import { compareVersionText } from '../version/text.ts';
import type { Architecture, HostRule, Installation, QuietHours } from './installation.ts';

export interface HostFacts {
  readonly name: string;
  readonly architecture: Exclude<Architecture, 'any'>;
  /** Such as `Desktop OS 24.2 multi-session`. */
  readonly system: string;
  readonly freeDiskBytes: number;
  readonly memoryBytes: number;
  readonly entries: readonly Entry[];
  /** Exit code of a script on this host; nothing where it cannot be run. */
  runScript(text: string): number | undefined;
}

export type HostVerdict =
  | { readonly state: 'not applicable'; readonly why: readonly string[] }
  | { readonly state: 'detected already'; readonly by: readonly string[] }
  | {
      readonly state: 'to install';
      /** Names of applications there that it takes the place of. */
      readonly replaces: readonly string[];
    };

/** Requirements first, since detecting what could never be installed says nothing. */
export function evaluate(installation: Installation, host: HostFacts): HostVerdict {
  const why = unmetRequirements(installation, host);
  if (why.length > 0) return { state: 'not applicable', why };
  if (isDetected(installation, host))
    return { state: 'detected already', by: installation.detection.map(describeRule) };
  const there = new Set(host.entries.flatMap((entry) => (entry.kind === 'application' ? [entry.name] : [])));
  return { state: 'to install', replaces: installation.replaces.filter((name) => there.has(name)) };
}

/** Whether it is there; without a rule to tell by, it is not. */
export function isDetected({ detection }: Pick<Installation, 'detection'>, host: HostFacts): boolean {
  return detection.length > 0 && detection.every((rule) => ruleFault(rule, host) === undefined);
}

function unmetRequirements({ requirements: wanted }: Installation, host: HostFacts): string[] {
  const why: string[] = [];
  if (wanted.architecture !== 'any' && wanted.architecture !== host.architecture)
    why.push(`it is for ${wanted.architecture}, the host is ${host.architecture}`);
  const system = /\d+(\.\d+)*/.exec(host.system)?.[0] ?? '0';
  if (wanted.minimumSystem !== '' && compareVersionText(system, wanted.minimumSystem) < 0)
    why.push(`it needs system ${wanted.minimumSystem}, the host has ${host.system}`);
  if (host.freeDiskBytes < wanted.diskBytes)
    why.push(`it needs ${gigabytes(wanted.diskBytes)} of disk, ${gigabytes(host.freeDiskBytes)} are free`);
  if (host.memoryBytes < wanted.memoryBytes)
    why.push(
      `it needs ${gigabytes(wanted.memoryBytes)} of memory, the host has ${gigabytes(host.memoryBytes)}`,
    );
  for (const rule of wanted.rules) {
    const fault = ruleFault(rule, host);
    if (fault !== undefined) why.push(fault);
  }
  return why;
}

function gigabytes(bytes: number): string {
  return `${(bytes / 1e9).toFixed(1)} GB`;
}

/** Why a rule does not hold on a host; nothing when it does. */
function ruleFault(rule: HostRule, host: HostFacts): string | undefined {
  if (rule.kind !== 'script') return failedCheck(rule, host.entries, 0);
  const code = host.runScript(rule.text);
  if (code === undefined) return 'its script cannot be run on this host';
  return code === 0 ? undefined : `its script ended with ${code}`;
}

/** A rule in a few words. */
export function describeRule(rule: HostRule): string {
  return rule.kind === 'script' ? 'its script ends with 0' : describeSuccessCheck(rule);
}

/** The earliest instant from `now` on that is not in the quiet hours; after the deadline at once. */
export function mayBegin(
  now: Instant,
  quiet: QuietHours | null,
  deadline: Instant | null,
  zone: string,
): Instant {
  if (!quiet || (deadline !== null && now >= deadline)) return now;
  const [start, end] = [parseWallTime(quiet.start) ?? 0, parseWallTime(quiet.end) ?? 0];
  const clock = wallClock(zone, now);
  const { minutes } = clock;
  const isQuiet = start < end ? minutes >= start && minutes < end : minutes >= start || minutes < end;
  if (!isQuiet) return now;
  const endsToday = minutes < end;
  const over = instantOfWall(zone, endsToday ? clock : addDays(clock, 1), end, 'second');
  return deadline === null ? over : Math.min(over, deadline);
}

export type InstallEnd = 'installed' | 'restart' | 'try again' | 'failed';

/** What an exit code means here; one that is not named is a failure. */
export function endOf(code: number, { exitCodes }: Pick<Installation, 'exitCodes'>): InstallEnd {
  const means = exitCodes.find((one) => one.code === code)?.means;
  if (means === undefined) return 'failed';
  return means === 'done' ? 'installed' : means;
}

/** Whether a host is in a rule group: names with `*` for any letters, divided by commas. */
export function isInHosts(hosts: string, name: string): boolean {
  return hosts
    .split(',')
    .map((one) => one.trim())
    .filter(Boolean)
    .some((one) => new RegExp(`^${one.split('*').map(escaped).join('.*')}$`, 'i').test(name));
}

function escaped(text: string): string {
  return text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
}
