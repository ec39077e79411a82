/** The record of a rollout: figures by hand, and a file that other tools read. */
import { parse } from 'csv-parse/sync';
import { describe, expect, it } from 'vitest';
import { recordCsv, recordFigures, type RecordedHost } from '../src/rollout/record.ts';

const MINUTE = 60_000;
const begun = Date.UTC(2027, 2, 23, 1);
const host = (name: string, minutes: number, change: Partial<RecordedHost> = {}): RecordedHost => ({
  name,
  way: 'rebuild',
  stage: 'done',
  attempts: 1,
  startedAt: begun,
  finishedAt: begun + minutes * MINUTE,
  error: null,
  ...change,
});
const hosts = [
  host('WCL-A-1', 30),
  host('WCL-A-2', 20),
  host('WCL-A-3', 95, { attempts: 2 }),
  host('WCL-A-4', 0, { stage: 'set aside', attempts: 2, finishedAt: null, error: '=a "quota", gone' }),
  host('WCL-A-5', 0, { stage: 'waiting', way: null, attempts: 0, startedAt: null, finishedAt: null }),
  // Stopped while it waited for another try: it was begun.
  host('WCL-A-6', 0, { stage: 'waiting', finishedAt: null, error: 'the agent was silent' }),
];

describe('a record', () => {
  it('counts what came of the hosts, and which was slowest', () =>
    expect(recordFigures(hosts)).toEqual({
      done: 3,
      setAside: 1,
      untouched: 1,
      triedAgain: 1,
      medianMinutes: 30,
      slowest: { name: 'WCL-A-3', minutes: 95 },
    }));

  it('of none says nothing that was not', () =>
    expect(recordFigures([])).toMatchObject({ done: 0, medianMinutes: null, slowest: null }));

  it('is CSV that a general reader gives back, and in which nothing is a formula', () => {
    const rows = parse(recordCsv(hosts), { columns: true }) as Record<string, string>[];
    expect(rows).toHaveLength(6);
    expect(rows[0]).toEqual({
      host: 'WCL-A-1',
      way: 'rebuild',
      'came to': 'done',
      attempts: '1',
      begun: '2027-03-23T01:00:00Z',
      done: '2027-03-23T01:30:00Z',
      minutes: '30',
      'failed with': '',
    });
    expect(rows[3]?.['failed with']).toBe('\'=a "quota", gone');
    expect(rows[4]).toMatchObject({ way: '', begun: '', minutes: '' });
  });
});
