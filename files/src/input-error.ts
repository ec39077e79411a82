import type { Fault } from '@vatline/core/result';

/** Input from outside that cannot be used: which, where in it, and why. Nothing was changed. */
export class InputError extends Error {
  override readonly name = 'InputError';

  constructor(
    readonly subject: string,
    readonly faults: readonly Fault[],
  ) {
    super(faults.map((fault) => [subject, fault.path, fault.message].filter(Boolean).join(': ')).join('; '));
  }

  static from(subject: string, faults: readonly Fault[]): InputError {
    return new InputError(subject, faults);
  }

  static of(subject: string, message: string, path = ''): InputError {
    return new InputError(subject, [{ path, message }]);
  }
}
