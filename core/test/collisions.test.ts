import { describe, expect, it } from 'vitest';
import fc from 'fast-check';
import { collisionsIn } from '../src/rollout/calendar/collisions.ts';
import type { PlannedWork } from '../src/rollout/calendar/planned-work.ts';

/** Hours, as instants that can be read. */
function work(of: string, start: number, until: number, more: Partial<PlannedWork> = {}): PlannedWork {
  return {
    id: `${of} ${start}`,
    kind: 'rollout',
    of,
    partOf: null,
    poolId: of,
    lineId: 'staff',
    start,
    end: until + 1,
    worksUntil: until,
    isEnough: true,
    loads: [],
    ...more,
  };
}

describe('what is planned on one pool', () => {
  it('collides where the second begins before the first has ended', () => {
    const found = collisionsIn([work('a', 1, 4, { poolId: 'p' }), work('b', 3, 6, { poolId: 'p' })], []);
    expect(found).toEqual([{ kind: 'one pool', of: ['a', 'b'], at: 3, until: 4 }]);
  });

  it('collides on nights between, since a rollout that sleeps has not ended', () => {
    const nights = [work('a', 1, 4, { poolId: 'p' }), work('a', 25, 28, { poolId: 'p' })];
    const found = collisionsIn([...nights, work('b', 10, 12, { poolId: 'p' })], []);
    expect(found).toEqual([{ kind: 'one pool', of: ['a', 'b'], at: 10, until: 12 }]);
  });

  it('does not with the ring before it, which it waits for by itself', () => {
    const rings = ['a', 'b'].map((of) => work(of, 1, 5, { poolId: 'p', partOf: 'whole', kind: 'ring' }));
    expect(collisionsIn(rings, [])).toEqual([]);
    const other = work('c', 2, 9, { poolId: 'p', partOf: 'other' });
    expect(collisionsIn([...rings, other], []).map(({ of }) => of)).toEqual([['a', 'c']]);
  });

  it('does not where one begins as the other ends, or on another pool', () => {
    const found = collisionsIn(
      [work('a', 1, 4, { poolId: 'p' }), work('b', 4, 6, { poolId: 'p' }), work('c', 2, 5)],
      [],
    );
    expect(found).toEqual([]);
  });

  it('is held against the one that ends last, each once', () => {
    const long = work('long', 0, 100, { poolId: 'p' });
    const short = [10, 20, 30].map((at) => work(`s${at}`, at, at + 5, { poolId: 'p' }));
    expect(collisionsIn([long, ...short], []).map(({ of }) => of)).toEqual([
      ['long', 's10'],
      ['long', 's20'],
      ['long', 's30'],
    ]);
  });
});

describe('what starts on one datastore', () => {
  const load = (operations: number) => ({ loads: [{ store: 'hall, fast', operations }] });
  const stores = [{ kind: 'datastore', store: 'hall, fast', free: 1_000 }] as const;

  it('collides for as long as together they ask for more than it has left', () => {
    const found = collisionsIn([work('a', 1, 5, load(600)), work('b', 3, 8, load(500))], stores);
    expect(found).toEqual([
      {
        kind: 'datastore',
        of: ['a', 'b'],
        at: 3,
        until: 5,
        store: 'hall, fast',
        operations: 1_100,
        free: 1_000,
      },
    ]);
  });

  it('collides as well where more would be made at a time than a hypervisor makes', () => {
    const made = (hosts: number) => ({ loads: [{ store: 'hall', operations: hosts }] });
    const limits = [{ kind: 'hypervisor', store: 'hall', free: 12 }] as const;
    expect(collisionsIn([work('a', 1, 5, made(8)), work('b', 3, 8, made(4))], limits)).toEqual([]);
    expect(collisionsIn([work('a', 1, 5, made(8)), work('b', 3, 8, made(5))], limits)).toMatchObject([
      { kind: 'hypervisor', store: 'hall', operations: 13, free: 12, at: 3, until: 5 },
    ]);
  });

  it('tells of the worst moment of a stretch, and of all who are in it', () => {
    const [found] = collisionsIn(
      [work('a', 1, 9, load(600)), work('b', 3, 8, load(500)), work('c', 4, 5, load(300))],
      stores,
    );
    expect(found).toMatchObject({ of: ['a', 'b', 'c'], at: 3, until: 8, operations: 1_400 });
  });

  it('does not up to just what is left, one after the other, or by one alone', () => {
    expect(collisionsIn([work('a', 1, 5, load(500)), work('b', 3, 8, load(500))], stores)).toEqual([]);
    expect(collisionsIn([work('a', 1, 3, load(900)), work('b', 3, 8, load(900))], stores)).toEqual([]);
    expect(collisionsIn([work('a', 1, 3, load(1_900))], stores)).toEqual([]);
  });

  it('does not among the rings of one rollout', () => {
    const rings = ['a', 'b'].map((of) => work(of, 1, 5, { ...load(900), partOf: 'whole' }));
    expect(collisionsIn(rings, stores)).toEqual([]);
    expect(collisionsIn([...rings, work('c', 2, 3, load(1))], stores)).toHaveLength(1);
  });

  it('never tells of less than is left, and finds every pair that overlaps and is too much', () => {
    const span = fc.record({
      start: fc.integer({ min: 0, max: 40 }),
      hours: fc.integer({ min: 1, max: 10 }),
      operations: fc.integer({ min: 1, max: 700 }),
    });
    fc.assert(
      fc.property(fc.array(span, { minLength: 2, maxLength: 12 }), (spans) => {
        const all = spans.map((one, i) =>
          work(`w${i}`, one.start, one.start + one.hours, load(one.operations)),
        );
        const found = collisionsIn(all, stores);
        for (let hour = 0; hour < 50; hour++) {
          const now = spans.filter(({ start, hours }) => start <= hour && hour < start + hours);
          const asked = now.reduce((sum, { operations }) => sum + operations, 0);
          const isOver = now.length > 1 && asked > 1_000;
          const told = found.filter((one) => one.at <= hour && 'until' in one && hour < one.until);
          expect(told.length).toBe(isOver ? 1 : 0);
          if (told[0]?.kind === 'datastore') expect(told[0].operations).toBeGreaterThanOrEqual(asked);
        }
      }),
    );
  });
});

describe('cuts and rollouts', () => {
  const cut = (at: number, lineId = 'staff') =>
    work(`cut ${at}`, at, at, { kind: 'cut', poolId: null, lineId, end: at });

  it('are in the wrong order where a rollout begins after a newer version is cut', () => {
    const found = collisionsIn([cut(10), work('a', 12, 15)], []);
    expect(found).toEqual([{ kind: 'behind a cut', of: ['cut 10', 'a'], at: 12 }]);
  });

  it('are not where it began before, follows the cut, or brings another line', () => {
    const started = [work('a', 8, 9), work('a', 32, 33)];
    const following = work('b', 12, 15, { kind: 'after a cut' });
    const other = work('c', 12, 15, { lineId: 'map' });
    expect(collisionsIn([cut(10), ...started, following, other], [])).toEqual([]);
  });

  it('tell of what follows and is not done before the next', () => {
    const nights = [1, 25].map((at) => work('b', at, at + 4, { kind: 'after a cut', isEnough: false }));
    expect(collisionsIn(nights, [])).toEqual([{ kind: 'next cut', of: ['b'], at: 1 }]);
  });
});

it('tells of the earliest first, and of 10,000 windows in a moment', () => {
  const many = Array.from({ length: 10_000 }, (_, i) =>
    work(`w${i % 300}`, i, i + 200, { loads: [{ store: 's', operations: 10 }], poolId: `p${i % 250}` }),
  );
  const found = collisionsIn(many, [{ kind: 'datastore', store: 's', free: 100 }]);
  const at = found.map((one) => one.at);
  expect(at).toEqual([...at].sort((a, b) => a - b));
  expect(found.length).toBeGreaterThan(50);
});
