import { describe, expect, it } from 'vitest';
import { readAssessment, type UsageMean } from '../src/pool/assessment.ts';
import { histogram } from '../src/pool/histogram.ts';
import { adviseSize } from '../src/pool/sizing.ts';

const header = 'user,time,cpu,memory,operations';
const rows = (...lines: string[]) => [header, ...lines].join('\n');

describe('assessment data', () => {
  it('becomes means of five minutes per person, here by hand', () => {
    const read = readAssessment(
      rows(
        'ann,2027-03-01T09:00,0.2,1000,4',
        'ann,2027-03-01T09:04:59,0.4,3000,8',
        'ben,2027-03-02 09:05,1,5000,0',
      ),
    );
    expect(read).toEqual({
      ok: true,
      value: {
        means: [
          { user: 'ann', slot: 108, cpu: expect.closeTo(0.3) as number, memoryBytes: 2000, operations: 6 },
          { user: 'ben', slot: 109, cpu: 1, memoryBytes: 5000, operations: 0 },
        ],
        rows: 3,
        users: 2,
        days: 2,
      },
    });
  });

  it('is read with semicolons and decimal commas, other orders, more columns and without operations', () => {
    const read = readAssessment('cpu;note;memory_bytes;User;time\r\n0,5;x;2000;ann;2027-03-01T23:59\r\n');
    expect(read.ok && read.value.means).toEqual([
      { user: 'ann', slot: 287, cpu: 0.5, memoryBytes: 2000, operations: 0 },
    ]);
  });

  it.each([
    ['nothing', '', 'line 1', 'no column "user"; the file is empty'],
    [
      'a column missing',
      'user,time,memory\nann,2027-03-01T09:00,1',
      'line 1',
      'no column "cpu"; found user, time, memory',
    ],
    ['a word for a number', rows('ann,2027-03-01T09:00,much,1,1'), 'line 2', 'cpu "much" is not a number'],
    ['an empty number', rows('ann,2027-03-01T09:00,,1,1'), 'line 2', 'cpu "" is not a number'],
    ['less than nothing', rows('ann,2027-03-01T09:00,1,-1,1'), 'line 2', 'memory -1 is below 0'],
    ['a time that is none', rows('ann,yesterday,1,1,1'), 'line 2', 'time "yesterday" is not a local time'],
    ['the hour 25', rows('ann,2027-03-01T25:00,1,1,1'), 'line 2', 'is not a local time'],
    ['no user', rows(',2027-03-01T09:00,1,1,1'), 'line 2', 'the user is empty'],
    [
      'mixed separators',
      rows('ann,2027-03-01T09:00,1,1,1', 'ben;2027-03-01T09:00;1;1;1'),
      'line 3',
      'has 1 values, the header 5; it seems to be separated by ";"',
    ],
    ['a quote left open', rows('"ann,2027-03-01T09:00,1,1,1'), 'line 2', 'Quote Not Closed'],
    ['a header alone', header, 'line 2', 'no row of data'],
  ])('with %s is refused at its line', (_what, text, path, message) => {
    const read = readAssessment(text);
    expect(read.ok ? [] : read.error[0]).toMatchObject({
      path,
      message: expect.stringContaining(message) as string,
    });
  });

  it('names at most twenty faults of a file that is all wrong', () => {
    const read = readAssessment(rows(...Array.from({ length: 500 }, () => 'ann,never,1,1,1')));
    expect(read.ok ? 0 : read.error.length).toBe(20);
  });
});

const alike = (n: number, cpu: number, memoryBytes: number): UsageMean[] =>
  Array.from({ length: n }, (_, i) => ({ user: `u${i}`, slot: 100, cpu, memoryBytes, operations: 10 }));
const machine = { processors: 4, memoryBytes: 16e9, baseMemoryBytes: 2e9, sessions: 4, seed: 'x' };

describe('sizing', () => {
  it('with people all alike equals the hand calculation: processors bind', () => {
    // 0.8 × 4 = 3.2 cores hold 6 people of 0.5; (0.9 × 16 − 2) = 12.4 GB would hold 12.
    const advice = adviseSize({ ...machine, means: alike(9, 0.5, 1e9) });
    expect(advice).toMatchObject({ sessionsHeld: 6, binds: 'processors', oversized: ['memory'] });
    // 4 people: 2 cores / 0.8 = 2.5, so 3; (4 + 2) / 0.9 = 6.7, so 7 GB; 16 is over 1.5 × 7.
    expect(adviseSize({ ...machine, means: alike(9, 0.5, 1e9) }).processors).toBe(3);
    expect(advice.memoryBytes).toBe(7e9);
  });

  it('memory binds when people need much of it', () => {
    // 12.4 GB hold 4 people of 3 GB.
    const advice = adviseSize({ ...machine, means: alike(9, 0.1, 3e9) });
    expect(advice).toMatchObject({ sessionsHeld: 4, binds: 'memory' });
    expect(advice.demand).toEqual({
      sessions: 4,
      cpu: expect.closeTo(0.4) as number,
      memoryBytes: 12e9,
      operations: 40,
    });
  });

  it('warns of what is over one and a half times what is needed, and not at exactly that', () => {
    const one = { ...machine, sessions: 1, means: alike(3, 0.8, 7e9) };
    // 1 processor and (7 + 2) / 0.9 = 10 GB are needed.
    expect(adviseSize({ ...one, processors: 1, memoryBytes: 15e9 }).oversized).toEqual([]);
    expect(adviseSize({ ...one, processors: 2, memoryBytes: 15.1e9 }).oversized).toEqual([
      'processors',
      'memory',
    ]);
  });

  it('holds nobody when the system alone fills the memory', () => {
    expect(adviseSize({ ...machine, memoryBytes: 2e9, means: alike(2, 0.1, 1e9) })).toMatchObject({
      sessionsHeld: 0,
      binds: 'memory',
    });
  });

  it('people at the same time of day: a busy hour counts with its share, not with the mean', () => {
    // A tenth of the five minutes of the day is three times as busy: the 95th percentile is that hour.
    const means = Array.from({ length: 100 }, (_, slot) => ({
      user: 'u',
      slot,
      cpu: slot < 10 ? 3 : 1,
      memoryBytes: 0,
      operations: 0,
    }));
    expect(adviseSize({ ...machine, processors: 32, sessions: 2, means }).demand.cpu).toBe(6);
  });

  it('gives the same answer for the same seed, and demand that never falls', () => {
    const means = alike(40, 0.2, 5e8).map((mean, i) => ({ ...mean, cpu: 0.1 + (i % 7) / 10 }));
    const advice = adviseSize({ ...machine, means });
    expect(adviseSize({ ...machine, means })).toEqual(advice);
    const cpu = advice.curve.map((point) => point.cpu);
    expect(cpu).toEqual([...cpu].sort((a, b) => a - b));
  });
});

describe('a histogram', () => {
  it('puts values into equal bins, what lies above into the last', () => {
    expect(histogram([0, 0.9, 1, 3.9, 4, 9], 4, 4)).toEqual({ top: 4, counts: [2, 1, 0, 3] });
  });
});
