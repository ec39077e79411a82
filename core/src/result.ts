/**
 * Errors as values. Functions of the core that can refuse their input return a `Result`;
 * exceptions are left for bugs.
 */

/** What is wrong with one part of an input: where it stands and what to do about it. */
export interface Fault {
  /** Where in the input, as a dotted path (`window.start`, `steps.3.kind`); empty for the whole. */
  readonly path: string;
  /** What is wrong and what would be right, in one sentence without a full stop. */
  readonly message: string;
}

export type Result<T, E = readonly Fault[]> =
  { readonly ok: true; readonly value: T } | { readonly ok: false; readonly error: E };

export function ok<T>(value: T): { readonly ok: true; readonly value: T } {
  return { ok: true, value };
}

/** A refusal with a single fault. */
export function refuse(path: string, message: string): { ok: false; error: readonly Fault[] } {
  return { ok: false, error: [{ path, message }] };
}

/** A refusal with all the faults found; at least one. */
export function refuseAll(faults: readonly Fault[]): { ok: false; error: readonly Fault[] } {
  return { ok: false, error: faults };
}

/** The value of a result that the caller knows to be good; throws otherwise. */
export function must<T>(result: Result<T>): T {
  if (result.ok) return result.value;
  throw new Error(result.error.map((fault) => `${fault.path}: ${fault.message}`).join('; '));
}

/** Marks a place that no value reaches while every case of a union is handled. */
export function unreachable(value: never): never {
  throw new Error(`unexpected value ${JSON.stringify(value)}`);
}
