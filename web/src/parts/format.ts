/** Numbers, sizes and times as a person reads them. */
import { wallClock, type LocalDate } from '@vatline/core/time/zone';

export function count(n: number): string {
  return n.toLocaleString('en-GB');
}

/** `1 host`, `24 hosts`. */
export function plural(n: number, one: string, many = `${one}s`): string {
  return `${count(n)} ${n === 1 ? one : many}`;
}

/** Bytes by 1,000: `71.4 MB`. */
export function size(bytes: number): string {
  const sign = bytes < 0 ? '−' : '';
  let value = Math.abs(bytes);
  for (const unit of ['B', 'kB', 'MB', 'GB', 'TB']) {
    // As it is rounded, so that nothing reads 10.0 kB or 1000 MB.
    if (Math.round(value) < 1000 || unit === 'TB')
      return `${sign}${value < 9.95 && unit !== 'B' ? value.toFixed(1) : Math.round(value)} ${unit}`;
    value /= 1000;
  }
  return '';
}

/** Minutes as `12 min` or `2 h 10 min`. */
export function minutes(total: number): string {
  const whole = Math.round(total);
  if (whole < 60) return `${whole} min`;
  const hours = Math.floor(whole / 60);
  return whole % 60 === 0 ? `${hours} h` : `${hours} h ${whole % 60} min`;
}

export function percent(share: number): string {
  return `${Math.round(share * 100)} %`;
}

/** The first letter of a sentence large. */
export function capital(text: string): string {
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** Money with two places, in whatever currency the estate reckons. */
export function money(amount: number): string {
  return amount.toLocaleString('en-GB', { minimumFractionDigits: 2, maximumFractionDigits: 2 });
}

const formats = new Map<string, Intl.DateTimeFormat>();

function format(zone: string, name: string, options: Intl.DateTimeFormatOptions): Intl.DateTimeFormat {
  const key = `${zone} ${name}`;
  let made = formats.get(key);
  if (!made) formats.set(key, (made = new Intl.DateTimeFormat('en-GB', { timeZone: zone, ...options })));
  return made;
}

/** `03:20`. */
export function time(at: number, zone: string): string {
  return format(zone, 'time', { hour: '2-digit', minute: '2-digit', hourCycle: 'h23' }).format(at);
}

/** `Tue 23 Mar`. */
export function day(at: number, zone: string): string {
  return format(zone, 'day', { weekday: 'short', day: 'numeric', month: 'short' })
    .format(at)
    .replace(',', '');
}

/** `Mon 22 March 2027`. */
export function longDay(at: number, zone: string): string {
  return format(zone, 'long', { weekday: 'short', day: 'numeric', month: 'long', year: 'numeric' })
    .format(at)
    .replace(',', '');
}

/** `Tue 23 Mar 03:20`. */
export function moment(at: number, zone: string): string {
  return `${day(at, zone)} ${time(at, zone)}`;
}

/** The day as it is called now: `today`, `tonight`, `tomorrow`, or its name. */
export function nearDay(at: number, now: number, zone: string): string {
  const there = wallClock(zone, at);
  const daysAhead = dayNumber(there) - dayNumber(wallClock(zone, now));
  if (daysAhead === 0) return 'today';
  if (daysAhead === 1) return there.minutes < LATE_NIGHT_ENDS ? 'tonight' : 'tomorrow';
  return day(at, zone);
}

/** Until then people call a night by the day before. */
const LATE_NIGHT_ENDS = 6 * 60;

/** Dates are counted, not hours: the day on which clocks change has 23 or 25. */
function dayNumber({ year, month, day: date }: LocalDate): number {
  return Date.UTC(year, month - 1, date) / 86_400_000;
}

/** `3 days ago`, `in 2 h`. */
export function relative(at: number, now: number): string {
  const difference = Math.abs(at - now);
  const text =
    difference < 90_000
      ? 'a minute'
      : difference < 5_400_000
        ? `${Math.round(difference / 60_000)} min`
        : difference < 129_600_000
          ? `${Math.round(difference / 3_600_000)} h`
          : plural(Math.round(difference / 86_400_000), 'day');
  return at < now ? `${text} ago` : `in ${text}`;
}
