/** When the libraries are closed to the public and to those who look after their desks, as iCalendar (RFC 5545). */

interface ClosedDay {
  /** `YYYYMMDD`. */
  readonly date: string;
  readonly name: string;
}

const days: readonly ClosedDay[] = [
  { date: '20270326', name: 'Good Friday' },
  { date: '20270329', name: 'Easter Monday' },
  { date: '20270503', name: 'First Monday in May' },
  { date: '20270607', name: 'First Monday in June' },
];

/** One day every year from then on. */
const everyYear: readonly ClosedDay[] = [
  { date: '20261225', name: 'Christmas Day' },
  { date: '20261226', name: 'The day after Christmas' },
];

export const closedCalendar = { name: 'Libraries closed', text: calendarText() };

function calendarText(): string {
  const once = days.map((day) => eventOf(day));
  const repeated = everyYear.map((day) => eventOf(day, 'RRULE:FREQ=YEARLY'));
  const lines = ['BEGIN:VCALENDAR', 'VERSION:2.0', 'PRODID:-//Wrenfield County Libraries//Closed days//EN'];
  return [...lines, ...[...once, ...repeated].flat(), 'END:VCALENDAR', ''].join('\r\n');
}

function eventOf({ date, name }: ClosedDay, ...more: readonly string[]): string[] {
  return [
    'BEGIN:VEVENT',
    `UID:${date}@wrenfield.example`,
    `DTSTART;VALUE=DATE:${date}`,
    ...more,
    `SUMMARY:${name}`,
    'END:VEVENT',
  ];
}
