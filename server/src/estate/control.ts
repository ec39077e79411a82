/** What a practice estate can do that a real one cannot: steer its clock and break things on purpose. */
import type { Instant } from '@vatline/core/time/instant';

export interface PracticeFault {
  readonly id: string;
  readonly kind: 'fail next' | 'quota exhausted' | 'agent silent';
  readonly target: string;
}

export interface EstateControl {
  readonly rate: number;
  readonly jumpingTo: Instant | null;
  setRate(rate: number): Promise<void>;
  /** Sends the clock ahead; resolves when it is on its way. */
  jumpTo(target: Instant): void;
  /** The next instant at which something will happen; null when nothing is planned. */
  nextEvent(): Promise<Instant | null>;
  faults(): Promise<readonly PracticeFault[]>;
  addFault(fault: Omit<PracticeFault, 'id'>): Promise<PracticeFault>;
  /** What was measured on people's old desktops, as CSV. */
  assessment(): string;
  removeFault(id: string): Promise<boolean>;
}
