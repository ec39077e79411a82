/** RFC 5545 recurrence rules, part by part: what is not exactly a rule is refused where it is wrong. */
import { ok, refuseAll, type Fault, type Result } from '../result.ts';
import type { LocalDate } from './zone.ts';

/** The last date of a rule, or the last instant. */
export type Until = { readonly date: LocalDate } | { readonly instant: number };

export interface RuleParts {
  readonly frequency: Frequency;
  /** The parts as the standard has them, by name; UNTIL and BYSETPOS stand apart. */
  readonly values: ReadonlyMap<string, string>;
  readonly until: Until | undefined;
  /** Which dates of each day, week, month or year are meant, from 1, or from -1 at the end; empty for all. */
  readonly positions: readonly number[];
}

const frequencies = ['DAILY', 'WEEKLY', 'MONTHLY', 'YEARLY'] as const;
export type Frequency = (typeof frequencies)[number];

const weekdays = 'SU|MO|TU|WE|TH|FR|SA';
/** Longer intervals and more repeats are of no use for windows, and cost time to look through. */
const MOST_INTERVAL = 1_000;
const MOST_COUNT = 10_000;
const MOST_CHARACTERS = 500;

interface Part {
  /** What is allowed, after “must be”. */
  readonly allowed: string;
  readonly holds: (value: string) => boolean;
  /** Frequencies of rules in which it may stand; all when it is left out. */
  readonly only?: readonly Frequency[];
}

const parts: Readonly<Record<string, Part>> = {
  FREQ: {
    allowed: 'DAILY, WEEKLY, MONTHLY or YEARLY',
    holds: (value) => (frequencies as readonly string[]).includes(value),
  },
  INTERVAL: {
    allowed: `a whole number from 1 to ${MOST_INTERVAL.toLocaleString('en-GB')}`,
    holds: (value) => within(value, 1, MOST_INTERVAL),
  },
  COUNT: {
    allowed: `a whole number from 1 to ${MOST_COUNT.toLocaleString('en-GB')}`,
    holds: (value) => within(value, 1, MOST_COUNT),
  },
  UNTIL: {
    allowed: 'a date such as 20271231, or an instant such as 20271231T235959Z',
    holds: (value) => untilOf(value) !== undefined,
  },
  WKST: { allowed: 'a weekday such as MO', holds: (value) => new RegExp(`^(${weekdays})$`).test(value) },
  BYDAY: { allowed: 'weekdays such as SU, or such as 2SU and -1FR by month or year', holds: areWeekdays },
  BYMONTH: { allowed: 'months from 1 to 12', holds: listOf(1, 12, false) },
  BYMONTHDAY: {
    allowed: 'days from 1 to 31, or -1 to -31 from the end',
    holds: listOf(1, 31, true),
    only: ['DAILY', 'MONTHLY', 'YEARLY'],
  },
  BYYEARDAY: {
    allowed: 'days from 1 to 366, or -1 to -366 from the end',
    holds: listOf(1, 366, true),
    only: ['YEARLY'],
  },
  BYWEEKNO: {
    allowed: 'weeks from 1 to 53, or -1 to -53 from the end',
    holds: listOf(1, 53, true),
    only: ['YEARLY'],
  },
  BYSETPOS: { allowed: 'places from 1 to 366, or -1 to -366 from the end', holds: listOf(1, 366, true) },
};

/** Reads a rule. Errors, all at `rule`: each part that is wrong, with what is allowed. */
export function parseRule(rule: string): Result<RuleParts> {
  if (rule.length > MOST_CHARACTERS) return refuseAll([fault(`has over ${MOST_CHARACTERS} characters`)]);
  const text = rule
    .trim()
    .replace(/^RRULE:/i, '')
    .toUpperCase();
  if (text === '') return refuseAll([fault('is empty; write an RFC 5545 rule such as FREQ=DAILY')]);
  const given = text.split(';').map((part) => part.split('=') as [string, string | undefined, ...string[]]);
  const faults = given.flatMap(partFaults);
  const values = new Map(given.map(([name, value = '']) => [name, value]));
  if (values.size < given.length) faults.push(fault('has a part twice'));
  const frequency = values.get('FREQ') as Frequency | undefined;
  if (frequency === undefined && faults.length === 0) faults.push(fault('lacks FREQ, such as FREQ=DAILY'));
  if (values.has('COUNT') && values.has('UNTIL')) faults.push(fault('has COUNT and UNTIL; give one of them'));
  if (faults.length === 0 && frequency) faults.push(...combinationFaults(values, frequency));
  if (faults.length > 0 || !frequency) return refuseAll(faults);
  const until = values.get('UNTIL');
  const positions = values.get('BYSETPOS')?.split(',').map(Number) ?? [];
  values.delete('UNTIL');
  values.delete('BYSETPOS');
  return ok({ frequency, values, until: until === undefined ? undefined : untilOf(until), positions });
}

function partFaults([name, value, ...more]: [string, string | undefined, ...string[]]): Fault[] {
  const part = Object.hasOwn(parts, name) ? parts[name] : undefined;
  if (name === 'DTSTART') return [fault('must not hold DTSTART; the first day is given apart')];
  if (['BYHOUR', 'BYMINUTE', 'BYSECOND'].includes(name))
    return [fault(`must not hold ${name}; the time of day is given apart`)];
  if (!part)
    return [
      fault(`has the unknown part ${name || 'without a name'}; known are ${Object.keys(parts).join(', ')}`),
    ];
  if (value === undefined || more.length > 0 || !part.holds(value))
    return [fault(`${[name, value, ...more].join('=')} must be ${part.allowed}`)];
  return [];
}

function combinationFaults(values: ReadonlyMap<string, string>, frequency: Frequency): Fault[] {
  const faults: Fault[] = [];
  for (const name of values.keys()) {
    const only = parts[name]?.only;
    if (only && !only.includes(frequency))
      faults.push(fault(`${name} goes with FREQ=${only.join(' or ')} only`));
  }
  if (/\d/.test(values.get('BYDAY') ?? '') && (frequency === 'DAILY' || frequency === 'WEEKLY'))
    faults.push(fault('BYDAY with numbers goes with FREQ=MONTHLY or YEARLY only'));
  if (
    values.has('BYSETPOS') &&
    ![...values.keys()].some((name) => name.startsWith('BY') && name !== 'BYSETPOS')
  )
    faults.push(fault('BYSETPOS needs another BY part to choose from'));
  return faults;
}

function fault(message: string): Fault {
  return { path: 'rule', message };
}

function within(value: string, least: number, most: number): boolean {
  return /^\d{1,6}$/.test(value) && Number(value) >= least && Number(value) <= most;
}

function listOf(least: number, most: number, fromEnd: boolean): (value: string) => boolean {
  return (value) =>
    value.split(',').every((one) => within(fromEnd ? one.replace(/^[+-]/, '') : one, least, most));
}

function areWeekdays(value: string): boolean {
  return value.split(',').every((one) => {
    const match = new RegExp(`^([+-]?\\d{1,2})?(${weekdays})$`).exec(one);
    return match !== null && (match[1] === undefined || within(match[1].replace(/^[+-]/, ''), 1, 53));
  });
}

function untilOf(value: string): Until | undefined {
  const match = /^(\d{4})(\d{2})(\d{2})(?:T(\d{2})(\d{2})(\d{2})Z)?$/.exec(value);
  if (!match) return undefined;
  const [year = 0, month = 0, day = 0, hours, minutes = 0, seconds = 0] = match
    .slice(1)
    .map((n) => (n === undefined ? undefined : Number(n)));
  const instant = Date.UTC(year, month - 1, day, hours ?? 0, minutes, seconds);
  const written = new Date(instant).toISOString().replace(/[-:]|\.\d+/g, '');
  const isReal = written.startsWith(hours === undefined ? value : value.slice(0, -1));
  if (!isReal) return undefined;
  return hours === undefined ? { date: { year, month, day } } : { instant };
}
