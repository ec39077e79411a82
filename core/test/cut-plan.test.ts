import { describe, expect, it } from 'vitest';
import { planCuts, type CutSchedule } from '../src/image/cut-plan.ts';
import { planRetention } from '../src/image/retention.ts';
import { nextOccurrences } from '../src/time/occurrences.ts';

const iso = (at: number | undefined) =>
  at === undefined ? undefined : new Date(at).toISOString().slice(0, 16);
const from = Date.UTC(2027, 2, 22, 8);
const sunday = (start: string, end: string) => ({ rule: 'FREQ=WEEKLY;BYDAY=SU', start, end });
const weekly: CutSchedule = {
  rule: 'FREQ=WEEKLY;BYDAY=SA',
  at: '02:00',
  zone: 'Europe/Dublin',
  waitHours: 12,
  rollouts: [
    { poolId: 'pilot', window: sunday('02:00', '03:30') },
    { poolId: 'desks', window: sunday('03:30', '05:00') },
  ],
};

describe('moments that recur', () => {
  it('keep their wall time when the clocks change', () => {
    const next = nextOccurrences(weekly, from, 2);
    expect(next.ok && next.value.map(iso)).toEqual(['2027-03-27T02:00', '2027-04-03T01:00']);
  });

  it('at a time that does not exist move forward by the gap', () => {
    const next = nextOccurrences(
      { rule: 'FREQ=WEEKLY;BYDAY=SU', at: '01:30', zone: 'Europe/Dublin' },
      from,
      1,
    );
    expect(next.ok && next.value.map(iso)).toEqual(['2027-03-28T01:30']);
  });

  it('today counts when it is still to come, and an instant counts only once', () => {
    const daily = { rule: 'FREQ=DAILY', at: '09:00', zone: 'UTC' };
    const next = nextOccurrences(daily, from, 1);
    expect(next.ok && next.value.map(iso)).toEqual(['2027-03-22T09:00']);
    const after = nextOccurrences(daily, Date.UTC(2027, 2, 22, 9), 1);
    expect(after.ok && after.value.map(iso)).toEqual(['2027-03-23T09:00']);
  });

  it('never, when the rule has ended', () => {
    const never = nextOccurrences(
      { rule: 'FREQ=DAILY;UNTIL=20200101T000000Z', at: '09:00', zone: 'UTC' },
      from,
      3,
    );
    expect(never).toEqual({ ok: true, value: [] });
  });
});

describe('what a schedule will do', () => {
  it('cuts, then one rollout after the other in its window', () => {
    const plan = planCuts(weekly, from, 2);
    expect(
      plan.ok &&
        plan.value.map((cut) => [iso(cut.cutAt), ...cut.rollouts.map((row) => iso(row.window?.start))]),
    ).toEqual([
      ['2027-03-27T02:00', '2027-03-28T01:00', '2027-03-28T02:30'],
      ['2027-04-03T01:00', '2027-04-04T01:00', '2027-04-04T02:30'],
    ]);
  });

  it('a pool that one window does not hold goes on in the next, and holds up those behind it', () => {
    const [pilot, desks] = weekly.rollouts;
    const rule = 'FREQ=MONTHLY;BYDAY=4SA';
    const slow = (hosts: number, batch: number) => {
      const work = { hosts, batch, hostMinutes: 25 };
      const rollouts = [{ ...pilot, work }, desks] as CutSchedule['rollouts'];
      const plan = planCuts({ ...weekly, rule, rollouts }, from, 1);
      return plan.ok
        ? plan.value[0]?.rollouts.map((row) => [row.hostsAtFirst, iso(row.doneIn?.start)])
        : undefined;
    };
    // Ninety minutes hold three waves of 25.
    expect(slow(6, 2)).toEqual([
      [6, '2027-03-28T01:00'],
      [undefined, '2027-03-28T02:30'],
    ]);
    expect(slow(7, 2)).toEqual([
      [6, '2027-04-04T01:00'],
      [undefined, '2027-04-04T02:30'],
    ]);
    // One host at a time takes longer than the month.
    expect(slow(60, 1)).toEqual([
      [3, undefined],
      [undefined, undefined],
    ]);
  });

  it('a rollout whose window comes only after the next cut does not happen, nor do those behind it', () => {
    const late = { ...weekly, waitHours: 160 };
    const plan = planCuts(late, from, 1);
    expect(plan.ok && plan.value[0]?.rollouts.map((row) => row.window)).toEqual([undefined, undefined]);
  });

  it('windows in the wrong order take another week', () => {
    const [first, second] = weekly.rollouts;
    const plan = planCuts(
      { ...weekly, rule: 'FREQ=MONTHLY;BYDAY=4SA', rollouts: [second, first] as CutSchedule['rollouts'] },
      from,
      1,
    );
    expect(plan.ok && plan.value[0]?.rollouts.map((row) => iso(row.window?.start))).toEqual([
      '2027-03-28T02:30',
      '2027-04-04T01:00',
    ]);
  });
});

describe('retention', () => {
  const version = (number: number, ...neededBy: string[]) => ({
    id: `v${number}`,
    number,
    sizeBytes: number * 1e9,
    neededBy,
  });
  it('keeps the newest and what is needed, and adds up what goes', () => {
    const plan = planRetention(
      [version(1), version(4, 'desks run it'), version(2, 'desks go back to it'), version(3), version(5)],
      2,
    );
    expect(plan.rows.map((row) => [row.version.number, row.goes, row.why])).toEqual([
      [5, false, 'one of the newest 2'],
      [4, false, 'desks run it'],
      [3, true, 'nothing needs it'],
      [2, false, 'desks go back to it'],
      [1, true, 'nothing needs it'],
    ]);
    expect([plan.goes, plan.freedBytes]).toEqual([2, 4e9]);
  });
  it('of one version only, the newest stays', () => {
    expect(planRetention([version(1)], 1)).toMatchObject({
      goes: 0,
      freedBytes: 0,
      rows: [{ why: 'the newest' }],
    });
  });
});

describe('the windows that a rollout after a cut uses', () => {
  const rollout = (hosts: number) => ({
    ...weekly,
    rollouts: [
      {
        poolId: 'desks',
        window: { rule: 'FREQ=DAILY', start: '01:00', end: '02:00' },
        work: { hosts, batch: 4, hostMinutes: 25 },
      },
    ],
  });
  const windowsOf = (hosts: number) => {
    const plan = planCuts(rollout(hosts), Date.UTC(2027, 3, 4), 1);
    return plan.ok ? (plan.value[0]?.rollouts[0]?.windows ?? []) : [];
  };

  it('are as many as its hosts need, the last until the last host is done', () => {
    // Two waves of four in an hour: eight a night, so of 19 eight, eight and three; the three take one wave.
    expect(windowsOf(19).map(({ span, worksUntil }) => [iso(span.start), iso(worksUntil)])).toEqual([
      ['2027-04-11T00:00', '2027-04-11T00:50'],
      ['2027-04-12T00:00', '2027-04-12T00:50'],
      ['2027-04-13T00:00', '2027-04-13T00:25'],
    ]);
  });

  it('are all until the next cut where those are not enough', () => {
    // Six nights from the 11th until the next cut on the 17th at 02:00, and that night's own.
    const windows = windowsOf(500);
    expect([windows.length, iso(windows.at(-1)?.span.start)]).toEqual([7, '2027-04-17T00:00']);
  });

  it('are the first alone where it is not known how much work there is', () => {
    const plan = planCuts(weekly, from, 1);
    const [first] = plan.ok ? (plan.value[0]?.rollouts ?? []) : [];
    expect(first?.windows.map(({ span, worksUntil }) => worksUntil === span.end)).toEqual([true]);
  });
});
