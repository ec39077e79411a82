/** Commands of installers with placeholders for what differs from host to host. */
import { ok, refuseAll, type Fault, type Result } from '../result.ts';

/** What may stand in braces, and what it stands for. */
export const placeholders = {
  folder: 'where the archive was unpacked',
  log: 'a log file that is kept with the report',
  name: 'name of the application',
  version: 'its version',
  host: 'name of the host',
} as const;
export type Placeholder = keyof typeof placeholders;

/** Errors: an empty command, a brace that does not close, a placeholder that there is not. */
export function commandFaults(command: string): Fault[] {
  if (command.trim() === '') return [{ path: '', message: 'is empty' }];
  const rest = command.replace(/\{[^{}]*\}/g, '');
  if (/[{}]/.test(rest)) return [{ path: '', message: 'has a brace without its partner' }];
  return [...command.matchAll(/\{([^{}]*)\}/g)].flatMap(([, name = '']) =>
    name in placeholders
      ? []
      : [
          {
            path: '',
            message: `has the unknown placeholder {${name}}; known are ${Object.keys(placeholders)
              .map((one) => `{${one}}`)
              .join(', ')}`,
          },
        ],
  );
}

/** The command with every placeholder filled. */
export function fillCommand(command: string, values: Readonly<Record<Placeholder, string>>): Result<string> {
  const faults = commandFaults(command);
  if (faults.length > 0) return refuseAll(faults);
  return ok(command.replace(/\{([^{}]*)\}/g, (_match, name: string) => values[name as Placeholder]));
}
