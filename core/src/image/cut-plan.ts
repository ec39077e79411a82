/** What a cut schedule will do next: its cuts, and the windows in which the rollouts follow. */
import { listWindows, type WindowSpan } from '../time/windows.ts';
import { HOUR, MINUTE, type Instant } from '../time/instant.ts';
import { nextOccurrences, type RecurringMoment } from '../time/occurrences.ts';
import { ok, type Result } from '../result.ts';

export interface CutSchedule extends RecurringMoment {
  /** Hours after the cut before which no rollout begins. */
  readonly waitHours: number;
  readonly rollouts: readonly {
    readonly poolId: string;
    readonly window: { readonly rule: string; readonly start: string; readonly end: string };
    /** Without it a rollout is taken to be done in one window. */
    readonly work?: RolloutWork | undefined;
  }[];
}

export interface RolloutWork {
  readonly hosts: number;
  /** Hosts at a time. */
  readonly batch: number;
  /** What one host takes at most in nine cases of ten, nobody being signed in. */
  readonly hostMinutes: number;
}

export interface PlannedRollout {
  readonly poolId: string;
  /** Its first window; missing when there is none before the next cut, which would come first. */
  readonly window: WindowSpan | undefined;
  /** The window in which its last host is done; missing when that is not before the next cut. */
  readonly doneIn: WindowSpan | undefined;
  /** Hosts that are done in the first window; a host begins only if it can end inside. */
  readonly hostsAtFirst: number | undefined;
}

export interface PlannedCut {
  readonly cutAt: Instant;
  /** In order; each waits until the one before it is done. */
  readonly rollouts: readonly PlannedRollout[];
}

/** The next `count` cuts after `from`, and in which windows the rollouts follow. Errors as of the rule. */
export function planCuts(schedule: CutSchedule, from: Instant, count: number): Result<PlannedCut[]> {
  const cuts = nextOccurrences(schedule, from, count + 1);
  if (!cuts.ok) return cuts;
  return ok(
    cuts.value.slice(0, count).map((cutAt, i) => ({
      cutAt,
      rollouts: followedBy(schedule, cutAt, cuts.value[i + 1] ?? Infinity),
    })),
  );
}

function followedBy(schedule: CutSchedule, cutAt: Instant, nextCut: Instant): PlannedRollout[] {
  let free: Instant | undefined = cutAt + schedule.waitHours * HOUR + MINUTE;
  return schedule.rollouts.map(({ poolId, window, work }) => {
    const none = { poolId, window: undefined, doneIn: undefined, hostsAtFirst: undefined };
    if (free === undefined) return none;
    const listed = listWindows({ ...window, zone: schedule.zone }, free, MOST_WINDOWS);
    const windows = listed.ok ? listed.value.filter((span) => span.start < nextCut) : [];
    const [first] = windows;
    const doneIn = work ? windowOfLast(windows, work) : first;
    free = doneIn?.end;
    if (!first) return none;
    return { poolId, window: first, doneIn, hostsAtFirst: work && hostsIn(first, work) };
  });
}

/** Nobody plans a rollout over more windows than this. */
const MOST_WINDOWS = 60;

/** Whole waves that end inside, in hosts. */
function hostsIn(span: WindowSpan, { hosts, batch, hostMinutes }: RolloutWork): number {
  return Math.min(hosts, Math.floor(span.minutes / hostMinutes) * batch);
}

function windowOfLast(windows: readonly WindowSpan[], work: RolloutWork): WindowSpan | undefined {
  let left = work.hosts;
  return windows.find((span) => (left -= hostsIn(span, { ...work, hosts: left })) <= 0);
}
