/** Changes as one: who asks within, who waits outside, and what was only begun in one. */
import { afterEach, beforeEach, describe, expect, it } from 'vitest';
import { openDatabase, type Db } from '../src/platform/database.ts';

let db: Db;
beforeEach(async () => {
  db = await openDatabase(':memory:');
});
afterEach(() => db.destroy());

const set = (name: string, value: string) =>
  db
    .insertInto('setting')
    .values({ name, value })
    .onConflict((c) => c.column('name').doUpdateSet({ value }))
    .execute();
const value = async (name: string) =>
  (await db.selectFrom('setting').select('value').where('name', '=', name).executeTakeFirst())?.value;

/** A promise that somebody else keeps. */
function gate(): { readonly opened: Promise<void>; open: () => void } {
  let open = () => {};
  const opened = new Promise<void>((done) => (open = done));
  return { opened, open };
}

describe('transact', () => {
  it('takes back what stores that know nothing of it have written, when the work throws', async () => {
    await set('a', 'before');
    const failing = db.transact(async () => {
      await set('a', 'within');
      expect(await value('a')).toBe('within');
      throw new Error('no');
    });
    await expect(failing).rejects.toThrow('no');
    expect(await value('a')).toBe('before');
  });

  it('within another is a part of that', async () => {
    const failing = db.transact(async () => {
      await db.transact(() => set('a', 'inner'));
      await db.transact(() => set('b', 'inner'));
      throw new Error('no');
    });
    await expect(failing).rejects.toThrow('no');
    expect([await value('a'), await value('b')]).toEqual([undefined, undefined]);
  });

  it('asks several things at once on its connection, without waiting for itself', async () => {
    const read = await db.transact(async () => {
      await set('a', '1');
      return Promise.all([value('a'), value('a'), value('none')]);
    });
    expect(read).toEqual(['1', '1', undefined]);
  });

  it('keeps everybody else waiting until its end, who then see all of it', async () => {
    const middle = gate();
    const done = db.transact(async () => {
      await set('a', '1');
      await middle.opened;
      await set('b', '1');
    });
    const seen = Promise.all([value('a'), value('b')]);
    middle.open();
    await done;
    expect(await seen).toEqual(['1', '1']);
  });

  it('lets two run one after the other', async () => {
    await set('n', '0');
    const more = () => db.transact(async () => set('n', String(Number(await value('n')) + 1)));
    await Promise.all(Array.from({ length: 20 }, more));
    expect(await value('n')).toBe('20');
  });
});

describe('what is only begun in a change', () => {
  it('is no part of it outside of it, and is not taken back', async () => {
    let begun: Promise<unknown> = Promise.resolve();
    const failing = db.transact(async () => {
      begun = db.outside(() => set('a', 'begun'));
      await set('b', 'within');
      throw new Error('no');
    });
    await expect(failing).rejects.toThrow('no');
    await begun;
    expect([await value('a'), await value('b')]).toEqual(['begun', undefined]);
  });

  it('and goes on after its end asks like all others', async () => {
    const ended = gate();
    let late: Promise<unknown> = Promise.resolve();
    await db.transact(async () => {
      late = ended.opened.then(() => db.transact(() => set('a', 'late')));
      await set('b', 'within');
    });
    ended.open();
    await late;
    expect([await value('a'), await value('b')]).toEqual(['late', 'within']);
  });
});
