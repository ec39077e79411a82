/** A window moved by hand: to another day of its week, another time of day, or both. */
import { parseRule } from '../../time/recurrence-rule.ts';
import { weekdayNames } from '../../time/set-positions.ts';
import { formatWallTime, parseWallTime } from '../../time/zone.ts';
import { ok, refuse, type Result } from '../../result.ts';

export interface MovableWindow {
  readonly rule: string;
  /** Wall times, `HH:MM`; a moment has none for its end. */
  readonly start: string;
  readonly end?: string;
}

export interface MovedBy {
  /** Whole days, forward or back. */
  readonly days: number;
  /** Minutes of the day, forward or back; past midnight it comes to another day. */
  readonly minutes: number;
}

/**
 * The same window so many days and minutes later: a weekly rule has its weekdays turned, and both wall
 * times move, so that it stays as long. Errors, at `rule`: a rule that is not by the day or by the week
 * has no other day that means the same; one of every day has no other day at all; an end date or a
 * number of times would not hold afterwards.
 */
export function movedWindow<T extends MovableWindow>(window: T, { days, minutes }: MovedBy): Result<T> {
  const parsed = parseRule(window.rule);
  if (!parsed.ok) return parsed;
  const start = parseWallTime(window.start);
  const end = window.end === undefined ? undefined : parseWallTime(window.end);
  if (start === undefined) return refuse('rule', `"${window.start}" is not a time such as 01:00`);
  const shifted = start + minutes;
  const turn = days + Math.floor(shifted / 1440);
  const rule = turnedRule(window.rule, parsed.value, turn);
  if (!rule.ok) return rule;
  const moved = { ...window, rule: rule.value, start: wall(shifted) };
  return ok(end === undefined ? moved : { ...moved, end: wall(end + minutes) });
}

const wall = (minutes: number) => formatWallTime(((minutes % 1440) + 1440) % 1440);

function turnedRule(
  rule: string,
  { frequency, values, until, positions }: Extract<ReturnType<typeof parseRule>, { ok: true }>['value'],
  days: number,
): Result<string> {
  if (days === 0) return ok(rule);
  const named = values.get('BYDAY');
  if (frequency === 'DAILY' && named === undefined)
    return refuse('rule', 'it is on every day; only its time of day can be moved');
  // Of every second week another day may be one of the other week.
  const known = ['FREQ', 'BYDAY', 'WKST', 'COUNT'];
  const isSimple =
    frequency === 'WEEKLY' &&
    named !== undefined &&
    until === undefined &&
    positions.length === 0 &&
    [...values.keys()].every((name) => known.includes(name));
  if (!isSimple) return refuse('rule', `no other day means the same by ${rule}; change the rule itself`);
  if (Math.abs(days) >= 7)
    return refuse('rule', 'a rule by the week comes every week; move it by less than seven days');
  const turned = named.split(',').map((name) => {
    const place = weekdayNames.indexOf(name as (typeof weekdayNames)[number]);
    return weekdayNames[(place + days + 14) % 7];
  });
  return ok(rule.replace(/BYDAY=[^;]*/i, `BYDAY=${turned.join(',')}`));
}
