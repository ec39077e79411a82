/** The record of a rollout, as it reads. */
import { describe, expect, it } from 'vitest';
import type { RolloutRecord } from '@vatline/contract/rollout-record';
import { figuresInWords, planInWords, promiseInWords } from '../src/rollouts/record/record-in-words.ts';

const zone = 'Europe/Dublin';
const at = (iso: string) => Date.parse(iso);
const figures: RolloutRecord['figures'] = {
  done: 18,
  setAside: 1,
  untouched: 19,
  triedAgain: 2,
  medianMinutes: 23,
  slowest: { name: 'WCL-CC-012', minutes: 35 },
};
const record = (change: Partial<RolloutRecord>, endedAt: number | null = null): RolloutRecord =>
  ({
    figures,
    promised: { p10: at('2027-03-26T02:49:00Z'), p50: null, p90: at('2027-03-26T03:36:00Z') },
    rollout: { hosts: 40, endedAt },
    ...change,
  }) as unknown as RolloutRecord;

describe('a record', () => {
  it('says what came of the hosts, and what of those that were not done', () => {
    expect(figuresInWords(record({}))).toBe(
      '18 of 40 hosts done, half of them within 23 min, the slowest, WCL-CC-012, in 35 min, 2 not at the first attempt; 1 set aside, 19 not begun yet.',
    );
    const bare = { ...figures, setAside: 0, untouched: 0, triedAgain: 0, medianMinutes: null, slowest: null };
    expect(figuresInWords(record({ figures: bare }))).toBe('18 of 40 hosts done.');
    expect(figuresInWords(record({}, 1))).toMatch(/19 never begun\.$/);
  });

  it('holds the end against the promise', () => {
    const says = (change: Partial<RolloutRecord>, endedAt: number | null) =>
      promiseInWords(record(change, endedAt), zone);
    expect(says({}, null)).toBe(
      'Promised between Fri 26 Mar 02:49 and Fri 26 Mar 03:36, 8 in 10; it is not over.',
    );
    expect(says({}, at('2027-03-26T03:13:00Z'))).toMatch(
      /; ended Fri 26 Mar 03:13, 23 min before the late end\.$/,
    );
    expect(says({}, at('2027-03-26T04:00:00Z'))).toMatch(/24 min after the late end\.$/);
    const never = { p10: null, p50: null, p90: null };
    expect(says({ promised: never }, at('2027-03-26T04:00:00Z'))).toBe(
      'No end could be promised at its start; it ended Fri 26 Mar 04:00.',
    );
  });

  it('says the plan in one sentence', () => {
    const plan = {
      window: { rule: 'FREQ=WEEKLY;BYDAY=SU', start: '01:00', end: '05:00' },
      zone,
      calendarIds: [],
      batch: 3,
      maxUnavailable: 3,
      drainLimitMinutes: 25,
      reserve: 0.1,
      stop: { failures: 3, share: 0.2, after: 10 },
      notice: null,
    };
    expect(planInWords(plan)).toMatch(
      /^On Sunday, 01:00 to 05:00, Europe\/Dublin; 3 hosts at a time, at most 3 out of service; .* seats kept 10 % above those expected; paused at 3 failed hosts; paused when over 20 % fail\.$/,
    );
    expect(planInWords({ ...plan, reserve: null, stop: null })).toMatch(/no seats kept\.$/);
    const notice = { text: 'Save your work', minutesBefore: 15 };
    expect(planInWords({ ...plan, stop: null, notice })).toMatch(
      /; people told as hosts drain and 15 min before: “Save your work”\.$/,
    );
  });
});
