import { MINUTE, type Instant } from './instant.ts';
import type { Closed } from './closed-days.ts';
import { recurrence } from './recurrence.ts';
import {
  addDays,
  formatDate,
  instantOfWall,
  parseWallTime,
  wallClock,
  zoneFault,
  type LocalDate,
} from './zone.ts';
import { ok, refuseAll, type Fault, type Result } from '../result.ts';

/** When hosts may be worked on, as a person writes it: in local wall time. */
export interface WindowRule {
  /** RFC 5545 recurrence rule, by day or longer. */
  readonly rule: string;
  /** First wall time, `HH:MM`. */
  readonly start: string;
  /** Last wall time, `HH:MM`; at or before `start` means on the next day. */
  readonly end: string;
  /** IANA time zone, such as `Europe/Dublin`. */
  readonly zone: string;
  /** Dates on which no window begins, and times that none overlaps. */
  readonly closed?: Closed;
}

/** One window as instants. `minutes` is the time between them, as clocks really ran. */
export interface WindowSpan {
  readonly start: Instant;
  readonly end: Instant;
  readonly minutes: number;
  /** Minutes by which this window is longer (+) or shorter (-) than its wall times say. */
  readonly clockChange: number;
}

/** A window repeats for this many dates without one that can be used before we give up looking. */
const MAX_BARREN_DATES = 2_000;

/**
 * The windows that start at or after `from`, earliest first. The rule is anchored (DTSTART) at
 * the local date of `from`. Windows that a clock change leaves without length are listed with
 * 0 minutes; nothing may be planned in them.
 *
 * Errors: unknown zone, wall times that are not `HH:MM`, start equal to end, a bad rule.
 */
export function windowsFrom(rule: WindowRule, from: Instant): Result<Iterable<WindowSpan>> {
  const faults: Fault[] = [];
  const start = parseWallTime(rule.start);
  const end = parseWallTime(rule.end);
  if (start === undefined)
    faults.push({ path: 'start', message: `"${rule.start}" is not a time such as 01:00` });
  if (end === undefined) faults.push({ path: 'end', message: `"${rule.end}" is not a time such as 05:00` });
  if (start !== undefined && start === end) {
    faults.push({ path: 'end', message: 'is the same as the start, so the window has no length' });
  }
  const unknown = zoneFault(rule.zone);
  if (unknown) return refuseAll([...faults, unknown]);
  const at = { zone: rule.zone, minutes: start ?? 0 };
  const repeats = recurrence(rule.rule, wallClock(rule.zone, from), at);
  if (!repeats.ok) return refuseAll([...faults, ...repeats.error]);
  if (faults.length > 0 || start === undefined || end === undefined) return refuseAll(faults);
  const spanOn = (date: LocalDate) => windowOn(date, start, end, rule.zone);
  return ok({
    *[Symbol.iterator]() {
      let barren = 0;
      for (const date of repeats.value.dates()) {
        const span = rule.closed?.dates.has(formatDate(date)) ? undefined : spanOn(date);
        if (span && span.start >= from && !isClosed(span, rule.closed)) {
          barren = 0;
          yield span;
        } else if (++barren > MAX_BARREN_DATES) return;
      }
    },
  });
}

function isClosed({ start, end }: WindowSpan, closed: Closed | undefined): boolean {
  return closed?.spans.some((span) => span.start < end && span.end > start) ?? false;
}

function windowOn(date: LocalDate, start: number, end: number, zone: string): WindowSpan {
  const startsAt = instantOfWall(zone, date, start, 'first');
  const endsAt = instantOfWall(zone, end <= start ? addDays(date, 1) : date, end, 'second');
  const minutes = Math.max(0, (endsAt - startsAt) / MINUTE);
  const byTheWall = end <= start ? end + 1440 - start : end - start;
  return { start: startsAt, end: startsAt + minutes * MINUTE, minutes, clockChange: minutes - byTheWall };
}

/** The first `count` windows that start at or after `from`. */
export function listWindows(rule: WindowRule, from: Instant, count: number): Result<WindowSpan[]> {
  const all = windowsFrom(rule, from);
  if (!all.ok) return all;
  const list: WindowSpan[] = [];
  if (count <= 0) return ok(list);
  for (const span of all.value) {
    list.push(span);
    if (list.length >= count) break;
  }
  return ok(list);
}

/**
 * Of the windows that start at or after `from`: the one open at `now`, or else the next one of
 * some length; undefined when the rule has no more.
 */
export function openOrNextWindow(
  rule: WindowRule,
  from: Instant,
  now: Instant,
): Result<WindowSpan | undefined> {
  const all = windowsFrom(rule, from);
  if (!all.ok) return all;
  for (const span of all.value) if (span.end > now && span.minutes > 0) return ok(span);
  return ok(undefined);
}
