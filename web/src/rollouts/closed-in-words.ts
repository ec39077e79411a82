const SHOWN = 4;

/** `no window begins on 26 Mar, 29 Mar`: the next of some local dates (`YYYY-MM-DD`), in any order. */
export function closedInWords(dates: readonly string[]): string {
  const next = [...new Set(dates)].sort();
  if (next.length === 0) return 'no whole day is closed from now on';
  const more = next.length > SHOWN ? ' and later days' : '';
  return `no window begins on ${next.slice(0, SHOWN).map(dayInWords).join(', ')}${more}`;
}

function dayInWords(date: string): string {
  return new Intl.DateTimeFormat('en-GB', { day: 'numeric', month: 'short', timeZone: 'UTC' }).format(
    Date.parse(`${date}T00:00:00Z`),
  );
}
