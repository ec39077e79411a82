/** Recurrence rules as a person says them. */
import { parseRule } from './recurrence-rule.ts';
import { weekdayNames } from './set-positions.ts';

const days = ['Sunday', 'Monday', 'Tuesday', 'Wednesday', 'Thursday', 'Friday', 'Saturday'];
const WORKING = 'MO,TU,WE,TH,FR';

/** `every day`, `Monday to Friday`, `every 2 weeks on Sunday, 6 times`; rules that have no short sentence as they are written. */
export function ruleInWords(rule: string): string {
  const parsed = parseRule(rule);
  if (!parsed.ok || parsed.value.positions.length > 0 || parsed.value.until) return rule;
  const { frequency, values } = parsed.value;
  const known = ['FREQ', 'INTERVAL', 'BYDAY', 'COUNT', 'WKST'];
  const isDaily = frequency === 'DAILY' && !values.has('BYDAY');
  const isWeekly = frequency === 'WEEKLY' && values.has('BYDAY');
  if (!(isDaily || isWeekly) || [...values.keys()].some((name) => !known.includes(name))) return rule;
  const count = values.get('COUNT');
  const times = count === undefined ? '' : `, ${count === '1' ? 'once' : `${count} times`}`;
  const interval = Number(values.get('INTERVAL') ?? 1);
  return `${isDaily ? everyDay(interval) : onDays(values.get('BYDAY') ?? '', interval)}${times}`;
}

function everyDay(interval: number): string {
  return interval === 1 ? 'every day' : `every ${interval} days`;
}

function onDays(list: string, interval: number): string {
  const names = [...new Set(list.split(','))].sort((a, b) => placeOf(a) - placeOf(b));
  const words = names.join(',') === WORKING ? 'Monday to Friday' : `on ${joined(names.map(nameOf))}`;
  return interval === 1 ? words : `every ${interval} weeks ${words}`;
}

/** Weeks begin on Monday. */
const placeOf = (day: string) => (weekdayNames.indexOf(day as (typeof weekdayNames)[number]) + 6) % 7;
const nameOf = (day: string) => days[(placeOf(day) + 1) % 7] ?? day;

function joined(words: readonly string[]): string {
  const last = words.at(-1) ?? '';
  return words.length < 2 ? last : `${words.slice(0, -1).join(', ')} and ${last}`;
}
