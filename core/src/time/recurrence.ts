import * as rruleModule from 'rrule';
import type { LocalDate } from './zone.ts';
import { ok, refuse, type Result } from '../result.ts';

// The package ships both module kinds; depending on the loader its names stand on the namespace
// or on its default.
const loaded = rruleModule as typeof rruleModule & { readonly [name: string]: unknown };
const { RRule } = ('RRule' in loaded ? loaded : loaded['default']) as typeof rruleModule;

/** The dates on which something recurs, earliest first, without end unless the rule has one. */
export interface Recurrence {
  dates(): Iterable<LocalDate>;
}

/**
 * Reads an RFC 5545 recurrence rule (`FREQ=WEEKLY;BYDAY=SU`), anchored at a local date. Only
 * rules by day or longer make sense for a maintenance window: at most one occurrence a day.
 */
export function recurrence(rule: string, anchor: LocalDate): Result<Recurrence> {
  const text = rule.trim().replace(/^RRULE:/i, '');
  if (text === '') return refuse('rule', 'is empty; write an RFC 5545 rule such as FREQ=DAILY');
  if (/DTSTART/i.test(text)) return refuse('rule', 'must not hold DTSTART; the first day is given apart');
  let options: ReturnType<typeof RRule.parseString>;
  try {
    options = RRule.parseString(text);
    if (options.freq === undefined) throw new Error('FREQ is missing');
    if (options.freq > RRule.DAILY) return refuse('rule', 'must recur by day, week, month or year');
    const dtstart = new Date(Date.UTC(anchor.year, anchor.month - 1, anchor.day));
    const parsed = new RRule({ ...options, dtstart });
    return ok({ dates: () => datesOf(parsed, dtstart) });
  } catch (error) {
    const why = error instanceof Error ? error.message : String(error);
    return refuse('rule', `is not an RFC 5545 recurrence rule (${why})`);
  }
}

function* datesOf(rule: InstanceType<typeof RRule>, anchor: Date): Iterable<LocalDate> {
  let next = rule.after(anchor, true);
  while (next) {
    yield { year: next.getUTCFullYear(), month: next.getUTCMonth() + 1, day: next.getUTCDate() };
    next = rule.after(next, false);
  }
}
