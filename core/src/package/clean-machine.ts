/** Whether a machine is clean enough to capture on: what is on it that the package would miss or take in. */
import { entryName, type Entry } from '../inventory/entry.ts';

export interface CleanCheck {
  readonly holds: boolean;
  readonly what: string;
  /** Why it matters and what to do; empty when it holds. */
  readonly why: string;
  readonly evidence: readonly string[];
}

const noisy = /index|search|updat(e|er)|defrag|telemetry/i;
const pendingRestart = /pending|reboot ?required|restart ?required/i;

/** The checks, those that do not hold first. */
export function cleanChecks(before: Iterable<Entry>): CleanCheck[] {
  const applications: string[] = [];
  const services: string[] = [];
  const restarts: string[] = [];
  const programs = new Set<string>();
  for (const entry of before) {
    if (entry.kind === 'application') applications.push(`${entryName(entry)} ${entry.version}`);
    else if (entry.kind === 'service' && isNoisy(entry.name, entry.start)) services.push(entry.name);
    else if (entry.kind === 'registry' && pendingRestart.test(`${entry.key}\\${entry.name}`))
      restarts.push(entryName(entry));
    else if (entry.kind === 'file') {
      const folder = /^program files( \(x86\))?\/([^/]+)\//i.exec(entry.path)?.[2];
      if (folder) programs.add(folder);
    }
  }
  const checks = [
    check(
      'nothing is installed but the system',
      [...new Set([...applications, ...programs])],
      'What it shares with the installer is there already, and would be missing from the package. Begin on a clean machine, or leave only what this application needs.',
    ),
    check(
      'no restart is pending',
      restarts,
      'An earlier installation finishes during the capture and gets into the package. Restart first.',
    ),
    check(
      'nothing writes by itself',
      services,
      'It changes files and settings while the installer runs; all that has to be told apart as noise. Switch it off for the capture.',
    ),
  ];
  return checks.sort((a, b) => Number(a.holds) - Number(b.holds));
}

function isNoisy(name: string, start: string): boolean {
  return noisy.test(name) && !/^(disabled|manual)$/i.test(start);
}

function check(what: string, evidence: readonly string[], why: string): CleanCheck {
  const holds = evidence.length === 0;
  return { holds, what: holds ? what : (opposite[what] ?? what), why: holds ? '' : why, evidence };
}

const opposite: Readonly<Record<string, string>> = {
  'nothing is installed but the system': 'something is installed already',
  'no restart is pending': 'a restart is pending',
  'nothing writes by itself': 'the machine writes by itself',
};
