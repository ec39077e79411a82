/** Maintenance windows on the command line: closed days, and what it refuses. */
import { spawnSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';

const main = resolve(import.meta.dirname, '../dist/main.js');
let work: string;
beforeAll(() => {
  work = mkdtempSync(join(tmpdir(), 'vatline-windows-'));
});
afterAll(() => rmSync(work, { recursive: true, force: true }));

const usual = {
  rule: 'FREQ=DAILY',
  start: '22:00',
  end: '04:00',
  zone: 'Europe/Dublin',
  from: '2027-03-22T08:00:00Z',
  count: '3',
};

function windows(change: Partial<typeof usual> & { closed?: string } = {}) {
  const args = Object.entries({ ...usual, ...change }).flatMap(([name, value]) => [`--${name}`, value]);
  const { status, stdout, stderr } = spawnSync(process.execPath, [main, 'windows', ...args], {
    cwd: work,
    encoding: 'utf8',
  });
  const starts = () => (JSON.parse(stdout) as { start: string }[]).map((span) => span.start);
  return { status, stdout, stderr, starts };
}

function calendar(name: string, ...events: string[][]): string {
  const lines = [
    'BEGIN:VCALENDAR',
    'VERSION:2.0',
    'PRODID:-//Wrenfield//Closed days//EN',
    ...events.flatMap((event, i) => [
      'BEGIN:VEVENT',
      `UID:${i}@wrenfield.example`,
      'DTSTAMP:20270101T000000Z',
      ...event,
      'END:VEVENT',
    ]),
    'END:VCALENDAR',
  ];
  writeFileSync(join(work, name), lines.join('\r\n') + '\r\n');
  return name;
}

describe('windows', () => {
  it('are listed in UTC with their minutes, one that loses an hour too', () => {
    const { status, stdout } = windows({ from: '2027-03-26T08:00:00Z' });
    expect([status, JSON.parse(stdout)]).toEqual([
      0,
      [
        { start: '2027-03-26T22:00:00Z', end: '2027-03-27T04:00:00Z', minutes: 360 },
        // The clocks go forward at 01:00 UTC: 04:00 there is 03:00 UTC.
        { start: '2027-03-27T22:00:00Z', end: '2027-03-28T03:00:00Z', minutes: 300 },
        { start: '2027-03-28T21:00:00Z', end: '2027-03-29T03:00:00Z', minutes: 360 },
      ],
    ]);
  });

  it('are left out on closed days, and where an event reaches into them', () => {
    const closed = calendar(
      'closed.ics',
      ['DTSTART;VALUE=DATE:20270323', 'SUMMARY:Founders’ day'],
      ['DTSTART:20270325T020000Z', 'DTEND:20270325T030000Z', 'SUMMARY:Power is off'],
    );
    // The night of the 22nd is free, that of the 23rd is a closed day, into that of the 24th reaches the event.
    expect(windows({ closed }).starts()).toEqual([
      '2027-03-22T22:00:00Z',
      '2027-03-25T22:00:00Z',
      '2027-03-26T22:00:00Z',
    ]);
  });

  it('are left out on every day that a closed day repeats on', () => {
    const closed = calendar('weekly.ics', [
      'DTSTART;VALUE=DATE:20270324',
      'RRULE:FREQ=WEEKLY',
      'SUMMARY:Backup of everything',
    ]);
    expect(
      windows({ closed, count: '8' })
        .starts()
        .map((start) => start.slice(8, 10)),
    ).toEqual(['22', '23', '25', '26', '27', '28', '29', '30']);
  });
});

describe('exit 2 with one line', () => {
  it.each<[string, Parameters<typeof windows>[0], RegExp]>([
    ['a calendar that is not there', { closed: 'none.ics' }, /^vatline: none\.ics: is not there\n$/],
    [
      'no instant',
      { from: 'tomorrow' },
      /--from: "tomorrow" is not an instant such as 2027-03-22T08:00:00Z\n$/,
    ],
    ['a zone that there is not', { zone: 'Europe/Tarnside' }, /zone/],
    ['a time that is none', { start: '25:00' }, /start/],
    ['a rule by the hour', { rule: 'FREQ=HOURLY' }, /rule/],
    ['no window at all', { count: '0' }, /--count: must be at least 1\n$/],
    ['half a window', { count: '1.5' }, /--count/],
  ])('%s', (_what, change, line) => {
    const { status, stdout, stderr } = windows(change);
    expect([status, stdout, stderr.trim().split('\n').length]).toEqual([2, '', 1]);
    expect(stderr).toMatch(line);
  });

  it('a calendar that is none, with its name', () => {
    writeFileSync(join(work, 'text.ics'), 'closed on Mondays\n');
    const { status, stderr } = windows({ closed: 'text.ics' });
    expect([status, stderr]).toEqual([
      2,
      expect.stringMatching(/^vatline: text\.ics.*is not an iCalendar file/),
    ]);
  });

  it('a closed day that repeats by the hour, with its summary', () => {
    const closed = calendar('hourly.ics', [
      'DTSTART:20270324T010000Z',
      'RRULE:FREQ=HOURLY',
      'SUMMARY:Heartbeat',
    ]);
    expect(windows({ closed }).stderr).toMatch(/Heartbeat/);
  });
});
