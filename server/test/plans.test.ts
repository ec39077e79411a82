/** Plans and the gates of rings in the database: what is written is what is read, and nothing is lost. */
import fc from 'fast-check';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { Plan } from '@vatline/contract/rollout';
import { CalendarStore } from '../src/calendar/store.ts';
import { PoolStore } from '../src/pool/pools.ts';
import { Plans } from '../src/rollout/plans.ts';
import { TestServer } from './harness.ts';

let server: TestServer;
let plans: Plans;
let calendars: string[];

beforeAll(async () => {
  server = await TestServer.open();
  const { db, estate } = server.app;
  const parts = { db, estate } as never;
  plans = new Plans(parts, new PoolStore(parts), new CalendarStore(parts));
  calendars = ['calendar-1', 'calendar-2', 'calendar-3'];
  const rows = calendars.map((id) => ({ id, name: id, text: '', revision: 1, kept_ms: 0 }));
  await db.insertInto('calendar').values(rows).execute();
});
afterAll(() => server.close());

const time = fc
  .tuple(fc.integer({ min: 0, max: 23 }), fc.integer({ min: 0, max: 59 }))
  .map((parts) => parts.map((n) => String(n).padStart(2, '0')).join(':'));
const plan = (): fc.Arbitrary<Plan> =>
  fc.record({
    window: fc.record({
      rule: fc.constantFrom('FREQ=DAILY', 'FREQ=WEEKLY;BYDAY=SU', 'FREQ=MONTHLY;BYDAY=MO;BYSETPOS=-1'),
      start: time,
      end: time,
    }),
    zone: fc.constantFrom('Europe/Dublin', 'UTC', 'America/New_York'),
    calendarIds: fc.subarray(calendars),
    batch: fc.integer({ min: 0, max: 1_000_000 }),
    maxUnavailable: fc.integer({ min: 0, max: 1_000_000 }),
    drainLimitMinutes: fc.double({ min: 0, max: 1_440, noNaN: true }),
    reserve: fc.option(fc.double({ min: 0, max: 1, noNaN: true }), { nil: null }),
    stop: fc.oneof(
      fc.constant(null),
      fc.record({
        failures: fc.integer({ min: 1, max: 1_000 }),
        share: fc.option(fc.double({ min: 0, max: 1, noNaN: true }), { nil: null }),
        after: fc.nat(1_000),
      }),
    ),
    notice: fc.option(fc.record({ text: fc.string({ minLength: 1 }), minutesBefore: fc.nat(1_440) }), {
      nil: null,
    }),
  });

describe('a plan', () => {
  it('that was written down is read as it was', async () => {
    const property = fc.asyncProperty(plan(), async (one) => {
      const id = await server.app.db.transact(() => plans.add(one));
      expect(await plans.get(id)).toEqual({ ...one, calendarIds: [...one.calendarIds].sort() });
    });
    await fc.assert(property, { numRuns: 60 });
  });

  it('among many is the one that was asked for', async () => {
    const [a, b] = fc.sample(plan(), { numRuns: 2, seed: 7 });
    if (!a || !b) throw new Error('two plans are needed');
    const ids = [await plans.add(a), await plans.add(b)];
    const found = await plans.some([...ids, 'plan-none']);
    expect([...found.keys()].sort()).toEqual([...ids].sort());
    expect(found.get(ids[1] ?? '')?.window).toEqual(b.window);
    await expect(plans.get('plan-none')).rejects.toThrow('there is no plan plan-none');
  });

  it('is not there after a transaction that failed, nor are its calendars', async () => {
    const count = async () =>
      (
        await server.app.db
          .selectFrom('plan_calendar')
          .select(({ fn }) => fn.countAll<number>().as('n'))
          .executeTakeFirstOrThrow()
      ).n;
    const before = await count();
    const [one] = fc.sample(plan(), { numRuns: 1, seed: 3 });
    const failing = server.app.db.transact(async () => {
      if (one) await plans.add({ ...one, calendarIds: calendars });
      throw new Error('it fails afterwards');
    });
    await expect(failing).rejects.toThrow('it fails afterwards');
    expect(await count()).toBe(before);
  });

  it('whose calendar is forgotten keeps to the others', async () => {
    const [one] = fc.sample(plan(), { numRuns: 1, seed: 5 });
    if (!one) throw new Error('a plan is needed');
    const id = await plans.add({ ...one, calendarIds: calendars });
    await server.app.db.deleteFrom('calendar').where('id', '=', 'calendar-3').execute();
    expect((await plans.get(id)).calendarIds).toEqual(['calendar-1', 'calendar-2']);
  });
});
