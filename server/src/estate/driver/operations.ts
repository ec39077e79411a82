/** Work that takes time in an outside system, and how it fails. */
import type { Instant } from '@vatline/core/time/instant';

export type EstateErrorKind = 'quota' | 'permission' | 'timeout' | 'not found' | 'conflict' | 'failed';

/** Why an outside system refused or failed. */
export class EstateError extends Error {
  override readonly name = 'EstateError';

  constructor(
    readonly kind: EstateErrorKind,
    message: string,
  ) {
    super(message);
  }
}

/** Something that takes time in an outside system. */
export interface Operation {
  readonly key: string;
  readonly state: 'running' | 'done' | 'failed';
  readonly startedAt: Instant;
  readonly endedAt: Instant | null;
  readonly error: { readonly kind: EstateErrorKind; readonly message: string } | null;
  /** What it made: an identifier, or empty. */
  readonly result: string;
}

export interface Operations {
  get(key: string): Promise<Operation | undefined>;
  /** Calls off an operation that is running: it ends failed, without effect. Any other is left as it is. */
  callOff(key: string): Promise<void>;
  /** Calls back when an operation has ended; the clock waits for the callback. */
  onEnd(listener: (operation: Operation) => Promise<void>): void;
}
