/** Forecasts of several rings, each worked out by hand, and what holds of every plan. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { forecast, type Forecast } from '../src/rollout/forecast/forecast.ts';
import type { RingPlan, RolloutPlan } from '../src/rollout/forecast/plan.ts';
import { must } from '../src/result.ts';
import { formatInstant, parseInstant } from '../src/time/instant.ts';

const MINUTE = 60_000;
const at = (text: string) => parseInstant(text) as number;
const window = { rule: 'FREQ=DAILY', start: '01:00', end: '05:00', zone: 'Europe/Dublin' };
let named = 0;
const hosts = (count: number) => Array.from({ length: count }, () => `h${++named}`);
const ring = (name: string, count: number, batch: number, change: Partial<RingPlan> = {}): RingPlan => ({
  name,
  window,
  hosts: hosts(count),
  batch,
  maxUnavailable: batch,
  work: { medianMinutes: 30, p90Minutes: 30 },
  drain: { limitMinutes: 0 },
  failure: { rate: 0, retries: 0 },
  ...change,
});
const plan = (rings: readonly RingPlan[], change: Partial<RolloutPlan> = {}): RolloutPlan => ({
  from: at('2027-03-22T08:00:00Z'),
  rings,
  runs: 1,
  seed: 1,
  ...change,
});
const text = (instant: number | null | undefined) =>
  typeof instant === 'number' ? formatInstant(instant) : null;
const answerTo = (rings: readonly RingPlan[], change: Partial<RolloutPlan> = {}) =>
  must(forecast(plan(rings, change)));
/** When each ring opens and is finished. */
const inWords = (answer: Forecast) =>
  answer.rings.map(({ name, opens, finish }) => [name, text(opens.p50), text(finish.p50)]);
const soak = (soakHours: number, change: object = {}) => ({
  gate: { finishedShare: 1, soakHours, approvalHours: 0, ...change },
});
/** How many hosts begin at each instant. */
const starts = (answer: Forecast) => {
  const counts: Record<string, number> = {};
  for (const { start } of answer.hosts)
    counts[formatInstant(start)] = (counts[formatInstant(start)] ?? 0) + 1;
  return counts;
};

describe('rings by hand', () => {
  it('the second opens when the first is done, in what is left of the same window', () => {
    // 6 hosts, 3 at a time: 01:00 to 02:00. 8 hosts, 4 at a time: 02:00 to 03:00.
    expect(inWords(answerTo([ring('pilot', 6, 3), ring('rest', 8, 4)]))).toEqual([
      ['pilot', '2027-03-22T08:00:00Z', '2027-03-23T02:00:00Z'],
      ['rest', '2027-03-23T02:00:00Z', '2027-03-23T03:00:00Z'],
    ]);
  });

  it('with soak, a closed day and a shared limit', () => {
    const closed = { dates: new Set(['2027-03-25']), spans: [] };
    const rings = [
      ring('pilot', 6, 3, { ...soak(48), window: { ...window, closed } }),
      ring('rest', 60, 20, { window: { ...window, closed } }),
    ];
    // Opens on the 25th at 02:00, when no window is open; on the 26th five waves of twelve.
    const answer = answerTo(rings, { limits: [{ name: 'clones', atOnce: 12 }] });
    expect(inWords(answer)).toEqual([
      ['pilot', '2027-03-22T08:00:00Z', '2027-03-23T02:00:00Z'],
      ['rest', '2027-03-25T02:00:00Z', '2027-03-26T03:30:00Z'],
    ]);
    expect(answer.windowsUsed.p50).toBe(2);
    expect(answer.finishesInFirstWindow).toBe(0);
  });

  it('of one pool one is not begun before the other has ended, however little its gate asks', () => {
    // Three of six are done at 01:30, which is enough; the last three at 02:00.
    const half = soak(0, { finishedShare: 0.5 });
    const opens = (change: Partial<RingPlan>) =>
      inWords(answerTo([ring('first', 6, 3, { ...half, ...change }), ring('rest', 4, 4, change)]))[1]?.[1];
    expect(opens({})).toBe('2027-03-23T01:30:00Z');
    expect(opens({ pool: 'desks' })).toBe('2027-03-23T02:00:00Z');
    // The soak counts from the share on: 01:30 and one hour is later than the end.
    const soaked = { pool: 'desks', ...soak(1, { finishedShare: 0.5 }) };
    expect(opens(soaked)).toBe('2027-03-23T02:30:00Z');
  });

  it('of one pool the other begins after a host that was given up, if the gate lets it', () => {
    // Every attempt fails: no gate opens on a share of hosts that never come.
    const failing = { pool: 'desks', failure: { rate: 1, retries: 0 } };
    const answer = answerTo([ring('first', 2, 2, failing), ring('rest', 2, 2, { pool: 'desks' })]);
    expect(inWords(answer)[1]).toEqual(['rest', null, null]);
  });

  it('one that may not begin before an instant waits for it', () => {
    const notBefore = at('2027-03-24T02:00:00Z');
    const rings = [ring('pilot', 6, 3, { notBefore }), ring('rest', 8, 4)];
    expect(inWords(answerTo(rings))).toEqual([
      ['pilot', '2027-03-24T02:00:00Z', '2027-03-24T03:00:00Z'],
      ['rest', '2027-03-24T03:00:00Z', '2027-03-24T04:00:00Z'],
    ]);
  });

  it('soak that ends in a window uses what is left of it', () => {
    // Done at 02:00, 24 hours and a half later: 02:30 to 05:00 hold five waves of four.
    const answer = answerTo([ring('pilot', 6, 3, soak(24.5)), ring('rest', 24, 4)]);
    expect(starts(answer)['2027-03-24T02:30:00Z']).toBe(4);
    expect(inWords(answer)[1]).toEqual(['rest', '2027-03-24T02:30:00Z', '2027-03-25T01:30:00Z']);
  });

  it('soak and approval follow one another', () => {
    const answer = answerTo([ring('pilot', 3, 3, soak(48, { approvalHours: 8 })), ring('rest', 3, 3)]);
    // 01:30 on the 23rd, and 56 hours: 09:30 on the 25th; the next window is that of the 26th.
    expect(inWords(answer)[1]).toEqual(['rest', '2027-03-25T09:30:00Z', '2027-03-26T01:30:00Z']);
  });

  it('a share of the hosts opens it, counted up to a whole one; what is left goes on', () => {
    // 7 hosts one at a time: half of them are 4, done at 03:00. The other three go on until 04:30.
    const answer = answerTo([ring('pilot', 7, 1, soak(0, { finishedShare: 0.5 })), ring('rest', 2, 2)]);
    expect(inWords(answer)).toEqual([
      ['pilot', '2027-03-22T08:00:00Z', '2027-03-23T04:30:00Z'],
      ['rest', '2027-03-23T03:00:00Z', '2027-03-23T03:30:00Z'],
    ]);
  });

  it('a share that floating point makes a little more is still the whole host that it is', () => {
    // 0.07 × 100 is 7.000000000000001.
    const answer = answerTo([ring('pilot', 100, 1, soak(0, { finishedShare: 0.07 })), ring('rest', 1, 1)]);
    expect(inWords(answer)[1]?.[1]).toBe('2027-03-23T04:30:00Z');
  });

  it('where rings compete for what they share, the earlier one goes first', () => {
    const together = [ring('a', 8, 8, { opens: 'at once' }), ring('b', 4, 4, { opens: 'at once' })];
    const answer = answerTo(together, { limits: [{ name: 'clones', atOnce: 6 }] });
    // 6 of a; then 2 of a and 4 of b.
    expect(inWords(answer)).toEqual([
      ['a', '2027-03-22T08:00:00Z', '2027-03-23T02:00:00Z'],
      ['b', '2027-03-22T08:00:00Z', '2027-03-23T02:00:00Z'],
    ]);
    expect(answer.binding).toEqual([{ constraint: 'shared limit', minutes: 60 }]);
  });

  it('the smallest of several limits is the one that counts', () => {
    const limits = [
      { name: 'clones', atOnce: 10 },
      { name: 'datastore', atOnce: 2 },
    ];
    expect(inWords(answerTo([ring('all', 6, 6)], { limits }))[0]?.[2]).toBe('2027-03-23T02:30:00Z');
  });

  it('rings in windows of their own keep to them', () => {
    const late = { ...window, start: '03:00', end: '04:00' };
    // The pilot is done at 01:30; the rest has two waves a night in its hour.
    const answer = answerTo([ring('pilot', 3, 3), ring('rest', 5, 2, { window: late })]);
    expect(inWords(answer)[1]).toEqual(['rest', '2027-03-23T01:30:00Z', '2027-03-24T03:30:00Z']);
  });

  it('rings of one pool take seats from the same people', () => {
    const seats = {
      hosts: 20,
      perHost: 10,
      expected: Array.from({ length: 24 }, () => 150),
      reserve: 0,
      zone: 'UTC',
    };
    // 200 seats for 150 people: five hosts may go. Both rings want four at once.
    const of = (pool: string | undefined) =>
      answerTo([
        ring('a', 4, 4, { opens: 'at once', seats, ...(pool && { pool }) }),
        ring('b', 4, 4, { opens: 'at once', seats, ...(pool && { pool }) }),
      ]);
    expect(inWords(of('desks')).map((row) => row[2])).toEqual([
      '2027-03-23T01:30:00Z',
      '2027-03-23T02:00:00Z',
    ]);
    expect(of('desks').minSeatsLeft.p50).toBe(0);
    expect(inWords(of(undefined)).map((row) => row[2])).toEqual([
      '2027-03-23T01:30:00Z',
      '2027-03-23T01:30:00Z',
    ]);
  });

  it('on the night the clocks go back a window has an hour more', () => {
    const from = at('2027-10-30T08:00:00Z');
    // Midnight to 05:00 UTC: ten waves instead of eight.
    expect(inWords(answerTo([ring('all', 50, 5)], { from }))[0]?.[2]).toBe('2027-10-31T05:00:00Z');
    expect(inWords(answerTo([ring('all', 51, 5)], { from }))[0]?.[2]).toBe('2027-11-01T01:30:00Z');
  });

  it('soak over the clock change counts hours, not the clock', () => {
    const from = at('2027-03-26T08:00:00Z');
    // Done on the 27th at 02:00 UTC, 24 hours later the window of the 28th is open: 01:00 to 04:00 UTC.
    const answer = answerTo([ring('pilot', 6, 3, soak(24)), ring('rest', 8, 2)], { from });
    expect(inWords(answer)[1]).toEqual(['rest', '2027-03-28T02:00:00Z', '2027-03-28T04:00:00Z']);
  });

  it('attach-only work is as short as it is: eight minutes, seven waves in an hour', () => {
    const work = { medianMinutes: 8, p90Minutes: 8 };
    const hour = { ...window, end: '02:00' };
    const answer = answerTo([ring('all', 72, 10, { work, window: hour })]);
    expect(Object.values(starts(answer))).toEqual([10, 10, 10, 10, 10, 10, 10, 2]);
    expect(inWords(answer)[0]?.[2]).toBe('2027-03-24T01:08:00Z');
  });

  it('drain and work of unlike rings: each by its own', () => {
    const slow = { drain: { limitMinutes: 45 }, work: { medianMinutes: 75, p90Minutes: 75 } };
    // Two hours a host; two waves in four hours.
    const answer = answerTo([ring('quick', 2, 2), ring('slow', 4, 2, { ...slow, opens: 'at once' })]);
    expect(inWords(answer).map((row) => row[2])).toEqual(['2027-03-23T01:30:00Z', '2027-03-23T05:00:00Z']);
  });

  it('a ring whose hosts all fail never opens the next', () => {
    const answer = answerTo([
      ring('pilot', 2, 2, { failure: { rate: 1, retries: 0 }, maxUnavailable: 4 }),
      ring('rest', 2, 2),
    ]);
    expect(inWords(answer)).toEqual([
      ['pilot', '2027-03-22T08:00:00Z', '2027-03-23T01:30:00Z'],
      ['rest', null, null],
    ]);
    expect(text(answer.finish.p90)).toBeNull();
    expect(answer.failed).toBe(2);
  });

  it('a failure rule stops its ring and those behind it, and no other rollout', () => {
    const stop = { failures: 3, share: null, after: 0 };
    const failing = { failure: { rate: 1, retries: 0 }, maxUnavailable: 20, ...soak(0, { stop }) };
    const answer = answerTo([
      ring('pilot', 10, 2, failing),
      ring('rest', 2, 2),
      ring('another', 2, 2, { opens: 'at once' }),
    ]);
    // Two waves of two: at the third failure nothing more begins.
    expect(answer.hosts.filter((host) => host.index < 10)).toHaveLength(4);
    expect(inWords(answer).map((row) => row[2])).toEqual([null, null, '2027-03-23T01:30:00Z']);
  });

  it('says what held each ring back, when', () => {
    const answer = answerTo([ring('pilot', 6, 3), ring('rest', 8, 4)]);
    expect(answer.held.map((span) => [span.ring, text(span.from), text(span.to), span.constraint])).toEqual([
      [0, '2027-03-23T01:00:00Z', '2027-03-23T01:30:00Z', 'batch'],
      [1, '2027-03-23T02:00:00Z', '2027-03-23T02:30:00Z', 'batch'],
    ]);
  });

  it('says when each part of the hosts is through', () => {
    const { progress } = answerTo([ring('all', 40, 10)]);
    expect([9, 10, 39].map((i) => text(progress[i]?.p50))).toEqual([
      '2027-03-23T01:30:00Z',
      '2027-03-23T02:00:00Z',
      '2027-03-23T03:00:00Z',
    ]);
  });
});

describe('faults of rings', () => {
  const faultsOf = (rings: readonly RingPlan[], change: Partial<RolloutPlan> = {}) => {
    const answer = forecast(plan(rings, change));
    return answer.ok ? [] : answer.error.map((fault) => fault.path);
  };

  it.each<[string, RingPlan, string]>([
    ['without hosts', { ...ring('b', 1, 1), hosts: [] }, 'rings.1.hosts'],
    ['with a batch over its hosts', ring('b', 2, 3), 'rings.1.batch'],
    ['whose gate needs nobody', ring('b', 2, 2, soak(0, { finishedShare: 0 })), 'rings.1.gate.finishedShare'],
    [
      'whose gate cannot pass',
      ring('b', 2, 2, soak(0, { finishedShare: 1.1 })),
      'rings.1.gate.finishedShare',
    ],
    ['whose soak is no span of time', ring('b', 2, 2, soak(-1)), 'rings.1.gate.soakHours'],
    [
      'whose window is no window',
      ring('b', 2, 2, { window: { ...window, end: '01:00' } }),
      'rings.1.window.end',
    ],
  ])('a ring %s is named', (_what, second, path) => {
    expect(faultsOf([ring('a', 2, 2), second])).toContain(path);
  });

  it('a host in two rings is named at the second', () => {
    const first = ring('a', 2, 2);
    const second = { ...ring('b', 2, 2), hosts: ['other', first.hosts[1] ?? ''] };
    expect(faultsOf([first, second])).toEqual(['rings.1.hosts.1']);
  });

  it('no ring, too many, and a limit that lets nobody in', () => {
    expect(faultsOf([])).toEqual(['rings']);
    expect(faultsOf(Array.from({ length: 51 }, (_, i) => ring(`r${i}`, 1, 1)))).toEqual(['rings']);
    expect(faultsOf([ring('a', 1, 1)], { limits: [{ name: 'x', atOnce: 0 }] })).toEqual(['limits.0.atOnce']);
  });
});

describe('whatever the plan', () => {
  const someRing = fc.record({
    count: fc.integer({ min: 1, max: 25 }),
    batch: fc.integer({ min: 1, max: 12 }),
    most: fc.integer({ min: 1, max: 15 }),
    minutes: fc.integer({ min: 5, max: 100 }),
    spread: fc.integer({ min: 0, max: 40 }),
    drain: fc.integer({ min: 0, max: 30 }),
    hour: fc.integer({ min: 0, max: 3 }),
    soakHours: fc.integer({ min: 0, max: 30 }),
    share: fc.constantFrom(0.3, 0.5, 1),
    rate: fc.constantFrom(0, 0, 0.2),
    isApart: fc.boolean(),
  });
  const rings = fc.array(someRing, { minLength: 1, maxLength: 4 });

  const planFrom = (
    list: readonly (typeof someRing extends fc.Arbitrary<infer T> ? T : never)[],
    atOnce: number,
    seed: number,
  ) =>
    plan(
      list.map((one, i) =>
        ring(`ring ${i}`, one.count, Math.min(one.batch, one.count), {
          maxUnavailable: one.most,
          work: { medianMinutes: one.minutes, p90Minutes: one.minutes + one.spread },
          drain: { limitMinutes: one.drain },
          window: { ...window, start: `0${one.hour}:00`, end: '06:00' },
          failure: { rate: one.rate, retries: 2 },
          gate: { finishedShare: one.share, soakHours: one.soakHours, approvalHours: 0 },
          ...(one.isApart && { opens: 'at once' as const }),
        }),
      ),
      { limits: [{ name: 'clones', atOnce }], seed, runs: 1 },
    );

  it('no host begins outside a window or twice, and no limit is ever exceeded', () => {
    const property = fc.property(rings, fc.integer({ min: 1, max: 20 }), fc.nat(), (list, atOnce, seed) => {
      const given = planFrom(list, atOnce, seed);
      const answer = must(forecast(given));
      const ringOf = given.rings.flatMap((one, i) => one.hosts.map(() => i));
      const spans = answer.hosts;
      expect(new Set(spans.map((span) => span.index)).size).toBe(spans.length);
      for (const span of spans) {
        const number = ringOf[span.index] ?? 0;
        const own = given.rings[number] as RingPlan;
        // Whether it drains before this attempt is not told; without it it must fit in any case.
        const fits = answer.windows.some(
          (one) => span.start >= one.start && span.start + own.work.p90Minutes * MINUTE <= one.end,
        );
        expect(fits).toBe(true);
        const together = spans.filter((other) => other.start <= span.start && other.finish > span.start);
        expect(together.length).toBeLessThanOrEqual(atOnce);
        expect(together.filter((other) => ringOf[other.index] === number).length).toBeLessThanOrEqual(
          Math.min(own.batch, own.maxUnavailable),
        );
      }
    });
    fc.assert(property, { numRuns: 150 });
  });

  it('a ring begins no host before the gate of the one before it has opened', () => {
    const property = fc.property(rings, fc.nat(), (list, seed) => {
      const given = planFrom(list, 1_000, seed);
      const answer = must(forecast(given));
      let first = 0;
      for (const [i, own] of given.rings.entries()) {
        const spans = answer.hosts.filter(({ index }) => index >= first && index < first + own.hosts.length);
        const opens = answer.rings[i]?.opens.p50;
        if (opens === null) expect(spans).toEqual([]);
        for (const span of spans) expect(span.start).toBeGreaterThanOrEqual(opens ?? 0);
        first += own.hosts.length;
      }
    });
    fc.assert(property, { numRuns: 100 });
  });

  it('a larger batch finishes no later where nothing is left to chance and nothing else binds', () => {
    const property = fc.property(
      fc.integer({ min: 2, max: 40 }),
      fc.integer({ min: 1, max: 39 }),
      fc.integer({ min: 5, max: 100 }),
      (count, batch, minutes) => {
        const work = { medianMinutes: minutes, p90Minutes: minutes };
        const end = (size: number) =>
          answerTo([ring('all', count, Math.min(size, count), { work, maxUnavailable: count })]).finish.p50 ??
          Infinity;
        expect(end(batch + 1)).toBeLessThanOrEqual(end(batch));
      },
    );
    fc.assert(property, { numRuns: 100 });
  });

  it('runs made in parts give the same answer as made at once', async () => {
    const { ForecastRuns } = await import('../src/rollout/forecast/forecast.ts');
    const random = plan(
      [
        ring('a', 20, 4, {
          work: { medianMinutes: 30, p90Minutes: 45 },
          failure: { rate: 0.05, retries: 1 },
        }),
        ring('b', 9, 3),
      ],
      { runs: 40 },
    );
    const [one, two] = [new ForecastRuns(random), new ForecastRuns(random)];
    const figures = [...two.figures(25, 40), ...one.figures(0, 25)];
    const parts = one.answer([...figures.slice(15), ...figures.slice(0, 15)]);
    expect(parts).toEqual(must(forecast(random)));
  });
});
