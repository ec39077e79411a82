/** How a verb ends: what goes to standard output, what to standard error, and the exit code. */
import { readFileSync } from 'node:fs';
import { InputError } from '@vatline/files/input-error';
import { systemReason } from '@vatline/files/system-reason';
import type { Result } from '@vatline/core/result';

/** Exit codes: the answer is no; bad use or bad input; done, but something was skipped. */
export const EXIT_NO = 1;
export const EXIT_BAD_INPUT = 2;
export const EXIT_SKIPPED = 3;

/** The command was used wrongly. */
export class UseError extends Error {
  override readonly name = 'UseError';
}

/** One line to standard error, exit 2; anything that is not bad input is a bug and shows its stack. */
export function fail(error: unknown): void {
  process.exitCode = EXIT_BAD_INPUT;
  if (error instanceof InputError || error instanceof UseError) {
    process.stderr.write(`vatline: ${error.message.replaceAll('\n', ' ')}\n`);
  } else if (isFileError(error)) {
    process.stderr.write(
      `vatline: ${error.path ? `${error.path}: ` : ''}${error.message.replace(/, \w+ '.*$/, '')}\n`,
    );
  } else {
    process.stderr.write(`${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`);
  }
}

function isFileError(error: unknown): error is NodeJS.ErrnoException {
  return error instanceof Error && 'code' in error && 'syscall' in error;
}

/**
 * Tells on standard error how long work has been going on, once a second, on a terminal only.
 * `quiet` where nobody would read it.
 */
export async function withProgress<T>(doing: string, quiet: boolean, work: () => Promise<T>): Promise<T> {
  if (quiet || !process.stderr.isTTY) return work();
  const begun = performance.now();
  const timer = setInterval(() => {
    process.stderr.write(`\r${doing}, ${Math.round((performance.now() - begun) / 1000)} s `);
  }, 1_000);
  try {
    return await work();
  } finally {
    clearInterval(timer);
    if (performance.now() - begun >= 1_000) process.stderr.write('\r\u001b[K');
  }
}

/** The text of a list that somebody exported: UTF-8 or UTF-16, with a byte order mark or without. */
export function readList(path: string): string[] {
  const bytes = readBytes(path);
  const isUtf16 = bytes[0] === 0xff && bytes[1] === 0xfe;
  const text = new TextDecoder(isUtf16 ? 'utf-16le' : 'utf-8').decode(bytes);
  return text
    .split(/\r?\n/)
    .map((line) => line.trim())
    .filter((line) => line !== '');
}

export function print(text: string): void {
  process.stdout.write(text.endsWith('\n') ? text : `${text}\n`);
}

export function printJson(value: unknown): void {
  print(JSON.stringify(value));
}

/** The value, or the faults of `subject` as bad input. */
export function orBadInput<T>(subject: string, result: Result<T>): T {
  if (!result.ok) throw InputError.from(subject, result.error);
  return result.value;
}

/** A whole number from an option. */
export function wholeNumber(option: string, text: string): number {
  if (!/^-?\d+$/.test(text)) throw new UseError(`${option}: "${text}" is not a whole number`);
  return Number(text);
}

/** The text of a file. Throws `InputError` when there is none. */
export function readInput(path: string): string {
  return readBytes(path).toString('utf8');
}

/** The bytes of a file. Throws `InputError` when there is none. */
export function readBytes(path: string): Buffer {
  try {
    return readFileSync(path);
  } catch (error) {
    const why = systemReason(error);
    throw InputError.of(
      path,
      why ?? `cannot be read (${error instanceof Error ? error.message : String(error)})`,
    );
  }
}
