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

export interface WindowUse {
  readonly span: WindowSpan;
  /** When the last of its hosts in this window is done, at the latest in nine cases of ten. */
  readonly worksUntil: Instant;
}

export interface PlannedRollout {
  readonly poolId: string;
  /** Its first window; missing when there is none before the next cut, which would come first. */
  readonly window: WindowSpan | undefined;
  /** All that it uses before the next cut; without known work the first. */
  readonly windows: readonly WindowUse[];
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
    const none = { poolId, window: undefined, windows: [], doneIn: undefined, hostsAtFirst: undefined };
    if (free === undefined) return none;
    const listed = listWindows({ ...window, zone: schedule.zone }, free, MOST_WINDOWS);
    const windows = listed.ok ? listed.value.filter((span) => span.start < nextCut) : [];
    const [first] = windows;
    const used = work ? usesOf(windows, work) : firstOnly(first);
    const doneIn = used.isDone ? used.windows.at(-1)?.span : undefined;
    free = doneIn?.end;
    if (!first) return none;
    return {
      poolId,
      window: first,
      windows: used.windows,
      doneIn,
      hostsAtFirst: work && hostsIn(first, work),
    };
  });
}

/** Nobody plans a rollout over more windows than this. */
const MOST_WINDOWS = 60;

/** Whole waves that end inside, in hosts. */
function hostsIn(span: WindowSpan, { hosts, batch, hostMinutes }: RolloutWork): number {
  return Math.min(hosts, Math.floor(span.minutes / hostMinutes) * batch);
}

interface Uses {
  readonly windows: readonly WindowUse[];
  readonly isDone: boolean;
}

function firstOnly(first: WindowSpan | undefined): Uses {
  return { windows: first ? [{ span: first, worksUntil: first.end }] : [], isDone: true };
}

/** Windows one after the other until no host is left; what cannot begin in one uses nothing of it. */
function usesOf(windows: readonly WindowSpan[], work: RolloutWork): Uses {
  const used: WindowUse[] = [];
  let left = work.hosts;
  for (const span of windows) {
    const hosts = hostsIn(span, { ...work, hosts: left });
    const waves = Math.ceil(hosts / work.batch);
    if (hosts > 0 || used.length === 0)
      used.push({ span, worksUntil: span.start + waves * work.hostMinutes * MINUTE });
    left -= hosts;
    if (left <= 0) break;
  }
  return { windows: used, isDone: left <= 0 };
}
