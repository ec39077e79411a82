/** What a cut schedule will do next: its cuts, and the windows in which the rollouts follow. */
import { listWindows, type WindowSpan } from '../rollout/windows.ts';
import { HOUR, MINUTE, type Instant } from '../time/instant.ts';
import { nextOccurrences, type RecurringMoment } from '../time/occurrences.ts';
import { ok, type Result } from '../result.ts';

export interface CutSchedule extends RecurringMoment {
  /** Hours after the cut before which no rollout begins. */
  readonly waitHours: number;
  readonly rollouts: readonly {
    readonly poolId: string;
    readonly window: { readonly rule: string; readonly start: string; readonly end: string };
  }[];
}

export interface PlannedCut {
  readonly cutAt: Instant;
  /** In order. A window is missing when there is none before the next cut, which would come first. */
  readonly rollouts: readonly { readonly poolId: string; readonly window: WindowSpan | undefined }[];
}

/** The next `count` cuts after `from`, if each rollout is done within one window. Errors as of the rule. */
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

function followedBy(schedule: CutSchedule, cutAt: Instant, nextCut: Instant): PlannedCut['rollouts'] {
  let free: Instant | undefined = cutAt + schedule.waitHours * HOUR + MINUTE;
  return schedule.rollouts.map(({ poolId, window }) => {
    if (free === undefined) return { poolId, window: undefined };
    const windows = listWindows({ ...window, zone: schedule.zone }, free, 1);
    const span = windows.ok ? windows.value[0] : undefined;
    const comes = span !== undefined && span.start < nextCut ? span : undefined;
    free = comes?.end;
    return { poolId, window: comes };
  });
}
