/** Something planned, moved: what it is then, and how the calendar looks with it. */
import type { CutScheduleRequest } from '@vatline/contract/cut-schedule';
import type { Planned } from '@vatline/contract/planned';
import { collisionsIn, type Collision } from '@vatline/core/rollout/calendar/collisions';
import type { StoreLimit } from '@vatline/core/rollout/calendar/planned-work';
import { movedWindow, type MovedBy } from '@vatline/core/rollout/calendar/moved-window';
import { DAY, MINUTE } from '@vatline/core/time/instant';
import { ok, refuse, type Result } from '@vatline/core/result';

/** What gets in each other's way of what is still to come. */
export function collisionsAhead(planned: readonly Planned[], stores: readonly StoreLimit[]): Collision[] {
  return collisionsIn(
    planned.filter(({ isOver }) => !isOver),
    stores,
  );
}

/** All windows of the same rule, so much later; clock changes between left aside. */
export function plannedMoved(
  planned: readonly Planned[],
  moved: Planned,
  { days, minutes }: MovedBy,
): Planned[] {
  const by = days * DAY + minutes * MINUTE;
  return planned.map((one) =>
    isMovedWith(one, moved)
      ? { ...one, start: one.start + by, end: one.end + by, worksUntil: one.worksUntil + by }
      : one,
  );
}

function isMovedWith(one: Planned, moved: Planned): boolean {
  if (one.isOver) return false;
  if (moved.kind === 'rollout' || moved.kind === 'ring') return one.of === moved.of;
  return one.kind === moved.kind && one.lineId === moved.lineId && one.place === moved.place;
}

/** The schedule of a line with its cut, or one of the rollouts that follow, moved. Errors as of a window. */
export function scheduleMoved(
  schedule: CutScheduleRequest,
  { place }: Pick<Planned, 'place'>,
  by: MovedBy,
): Result<CutScheduleRequest> {
  if (place === null) {
    const moved = movedWindow({ rule: schedule.rule, start: schedule.at }, by);
    return moved.ok ? ok({ ...schedule, rule: moved.value.rule, at: moved.value.start }) : moved;
  }
  const rollout = schedule.rollouts[place];
  if (!rollout) return refuse('rollouts', 'the schedule has no such rollout any more');
  const window = movedWindow(rollout.window, by);
  if (!window.ok) return window;
  const rollouts = schedule.rollouts.map((one, i) => (i === place ? { ...one, window: window.value } : one));
  return ok({ ...schedule, rollouts });
}
