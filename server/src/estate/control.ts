/** What a practice estate can do that a real one cannot: steer its clock and break things on purpose. */
import type { DirectoryEntries } from '@vatline/core/directory/entries';
import type { Step } from '@vatline/core/image/recipe';
import type { Instant } from '@vatline/core/time/instant';

export interface PracticeFault {
  readonly id: string;
  readonly kind: 'fail next' | 'quota exhausted' | 'agent silent' | 'account locked' | 'slow sign-ins';
  readonly target: string;
}

/** What somebody can do at the screen of a practice machine. */
export type HandChange =
  | {
      readonly kind: 'do';
      readonly step: Extract<
        Step,
        {
          kind:
            | 'application'
            | 'file copy'
            | 'shortcut'
            | 'registry setting'
            | 'service start'
            | 'scheduled task'
            | 'certificate';
        }
      >;
    }
  | { readonly kind: 'uninstall'; readonly name: string };

/** What somebody does to a host and tells nobody. */
export type SecretChange = 'a container is taken off' | 'an older disk comes back' | 'a program is installed';

export interface EstateControl {
  readonly rate: number;
  readonly jumpingTo: Instant | null;
  setRate(rate: number): Promise<void>;
  /** Sends the clock ahead; resolves when it is on its way. */
  jumpTo(target: Instant): void;
  /** Ends that; the clock stands where it has got to and goes on at its rate. */
  stopJump(): void;
  /** The next instant at which something will happen; null when nothing is planned. */
  nextEvent(): Promise<Instant | null>;
  faults(): Promise<readonly PracticeFault[]>;
  addFault(fault: Omit<PracticeFault, 'id'>): Promise<PracticeFault>;
  /** What was measured on people's old desktops, as CSV. */
  assessment(): string;
  removeFault(id: string): Promise<boolean>;
  /** Takes entries of another directory in, beside what is there; gives how many are new. */
  takeEntries(entries: DirectoryEntries): Promise<Omit<Record<keyof DirectoryEntries, number>, 'others'>>;
  /** Changes a host as somebody would who tells nobody. Throws an estate error where there is nothing to change. */
  behindOurBack(host: string, change: SecretChange): Promise<void>;
  /** Changes a running machine as a person at its screen would. */
  byHand(machineId: string, change: HandChange): Promise<void>;
}
