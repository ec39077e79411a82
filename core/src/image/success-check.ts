/** Success checks: what must be true on the machine after a step before the build goes on. */
import type { Entry } from '../inventory/entry.ts';
import { compareVersionText } from '../version/text.ts';
import { unreachable } from '../result.ts';

/** What is looked for once a step has run. An exit code is that of the step's own command. */
export type SuccessCheck =
  | { readonly kind: 'file'; readonly path: string; readonly sha256?: string | undefined }
  | { readonly kind: 'registry'; readonly key: string; readonly name: string; readonly value: string }
  | { readonly kind: 'service'; readonly name: string; readonly start?: string | undefined }
  | { readonly kind: 'version'; readonly name: string; readonly atLeast: string }
  | { readonly kind: 'exit code'; readonly codes: readonly number[] };

export const successCheckKinds = ['file', 'registry', 'service', 'version', 'exit code'] as const;

/** A success check in a few words. */
export function describeSuccessCheck(check: SuccessCheck): string {
  switch (check.kind) {
    case 'file':
      return `${check.path} is there${check.sha256 ? ` with digest ${check.sha256.slice(0, 12)}…` : ''}`;
    case 'registry':
      return `${check.key}\\${check.name} is ${check.value}`;
    case 'service':
      return `service ${check.name} is there${check.start ? ` and starts ${check.start}` : ''}`;
    case 'version':
      return `${check.name} is there in ${check.atLeast} or newer`;
    case 'exit code':
      return `exit ${check.codes.join(' or ')}`;
    default:
      return unreachable(check);
  }
}

/**
 * Looks for what a success check asks, in the inventory of the machine after the step. Gives what
 * is wrong, or nothing. `exitCode` is that of the step's command; steps without one end with 0.
 */
export function failedCheck(
  check: SuccessCheck,
  entries: readonly Entry[],
  exitCode: number,
): string | undefined {
  switch (check.kind) {
    case 'file': {
      const file = entries.find((entry) => entry.kind === 'file' && sameName(entry.path, check.path));
      if (file?.kind !== 'file') return `there is no file ${check.path}`;
      if (check.sha256 && file.sha256 !== check.sha256)
        return `${check.path} has digest ${file.sha256.slice(0, 12)}… and not ${check.sha256.slice(0, 12)}…`;
      return undefined;
    }
    case 'registry': {
      const value = entries.find(
        (entry) =>
          entry.kind === 'registry' && sameName(entry.key, check.key) && sameName(entry.name, check.name),
      );
      if (value?.kind !== 'registry') return `there is no value ${check.key}\\${check.name}`;
      return value.value === check.value
        ? undefined
        : `${check.key}\\${check.name} is ${value.value} and not ${check.value}`;
    }
    case 'service': {
      const service = entries.find((entry) => entry.kind === 'service' && sameName(entry.name, check.name));
      if (service?.kind !== 'service') return `there is no service ${check.name}`;
      return !check.start || service.start === check.start
        ? undefined
        : `service ${check.name} starts ${service.start} and not ${check.start}`;
    }
    case 'version': {
      const found = entries.find((entry) => entry.kind === 'application' && sameName(entry.name, check.name));
      if (found?.kind !== 'application') return `${check.name} is not installed`;
      return compareVersionText(found.version, check.atLeast) >= 0
        ? undefined
        : `${check.name} is ${found.version}, older than ${check.atLeast}`;
    }
    case 'exit code':
      return check.codes.includes(exitCode)
        ? undefined
        : `it ended with exit ${exitCode} and not ${check.codes.join(' or ')}`;
    default:
      return unreachable(check);
  }
}

/** Names on the machines that images are made for do not tell capitals from small letters. */
function sameName(a: string, b: string): boolean {
  return a.toLowerCase() === b.toLowerCase();
}
