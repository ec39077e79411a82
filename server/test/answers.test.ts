/** Answers that are made once for all who ask, and never given once they may be others. */
import express, { type Express } from 'express';
import { beforeEach, describe, expect, it, vi } from 'vitest';
import request from 'supertest';
import type { Topic } from '@vatline/contract/topics';
import { Answers, sendAnswer } from '../src/platform/answers.ts';

let now: number;
let real: number;
let made: number;
let answers: Answers;
beforeEach(() => {
  [now, real, made] = [1_000, 0, 0];
  answers = new Answers(
    () => now,
    () => real,
  );
});

const pools = { key: '/pools', dependsOn: ['pool'] as Topic[] };
const onePool = { key: '/pools/p1', dependsOn: ['pool:p1'] as Topic[] };
/** What the answer to a question says: how many were made before it. */
const ask = async (question = pools, make = () => Promise.resolve(made++)) =>
  JSON.parse((await answers.to(question, make)).body.toString()) as number;

describe('an answer', () => {
  it('is made once for all who ask at once and after one another', async () => {
    expect(await Promise.all([ask(), ask(), ask()])).toEqual([0, 0, 0]);
    expect(await ask()).toBe(0);
    expect(made).toBe(1);
  });

  it('is another one for another question', async () => {
    expect([await ask(pools), await ask(onePool)]).toEqual([0, 1]);
  });

  it.each<[string, Topic[], boolean]>([
    ['all pools', ['pool'], true],
    ['this pool', ['pool:p1'], true],
    ['another pool', ['pool:p2'], false],
    ['a line', ['line', 'line:p1'], false],
  ])('about one pool is made anew after news of %s: %o, %s', async (_what, news, anew) => {
    await ask(onePool);
    answers.changed(news);
    expect(await ask(onePool)).toBe(anew ? 1 : 0);
  });

  it('about all pools is made anew after news of any', async () => {
    await ask();
    answers.changed(['pool:p7']);
    expect(await ask()).toBe(1);
  });

  it('that is being made when something changes is not given to those who ask afterwards', async () => {
    let finish: (value: number) => void = () => undefined;
    const early = ask(pools, () => new Promise<number>((done) => (finish = done)));
    answers.changed(['pool']);
    const late = ask(pools, () => Promise.resolve(7));
    finish(3);
    expect([await early, await late]).toEqual([3, 7]);
    // And the early one does not take the place of the late one.
    expect(await ask()).toBe(7);
  });

  it('that takes long is waited for by all, and made once', async () => {
    let finish: (value: number) => void = () => undefined;
    const long = () => {
      made++;
      return new Promise<number>((done) => (finish = done));
    };
    const first = ask(pools, long);
    real += 6_000;
    const second = ask(pools, long);
    finish(5);
    expect([await first, await second, made]).toEqual([5, 5, 1]);
  });

  it('holds for a minute of the clock', async () => {
    await ask();
    now += 59_999;
    expect(await ask()).toBe(0);
    now += 1;
    expect(await ask()).toBe(1);
    // Sent back, as after another data folder, it does not hold either.
    now -= 60_000;
    expect(await ask()).toBe(2);
  });

  it('of a second ago is given, and made anew behind; of long ago it is waited for', async () => {
    await ask();
    real += 999;
    expect(await ask()).toBe(0);
    expect(made).toBe(1);
    real += 1;
    expect(await Promise.all([ask(), ask()])).toEqual([0, 0]);
    expect(made).toBe(2);
    // Until it is written down the one before it is given.
    await vi.waitUntil(async () => (await ask()) === 1);
    real += 5_000;
    expect(await ask()).toBe(2);
  });

  it('that is made anew behind is not given when something has changed meanwhile', async () => {
    await ask();
    real += 1_000;
    let finish: (value: number) => void = () => undefined;
    expect(await ask(pools, () => new Promise<number>((done) => (finish = done)))).toBe(0);
    answers.changed(['pool']);
    finish(99);
    expect(await ask()).toBe(1);
  });

  it('that could not be made anew is forgotten, and the next who asks is told why', async () => {
    await ask();
    real += 1_000;
    expect(await ask(pools, () => Promise.reject(new Error('no')))).toBe(0);
    await expect(ask(pools, () => Promise.reject(new Error('still no')))).rejects.toThrow('still no');
  });

  it('that could not be made is not kept', async () => {
    await expect(ask(pools, () => Promise.reject(new Error('no')))).rejects.toThrow('no');
    expect(await ask()).toBe(0);
  });

  it('gives way to newer ones when all together are too many bytes; one that is huge is not kept', async () => {
    const large = (n: number) => ({ key: `/large/${n}`, dependsOn: ['line'] as Topic[] });
    const text = 'x'.repeat(15e6);
    for (let n = 0; n < 5; n++) await answers.to(large(n), () => Promise.resolve(text));
    let again = 0;
    const count = () => {
      again++;
      return Promise.resolve(text);
    };
    await answers.to(large(4), count);
    await answers.to(large(1), count);
    expect(again).toBe(0);
    await answers.to(large(0), count);
    expect(again).toBe(1);
    const huge = { key: '/huge', dependsOn: ['line'] as Topic[] };
    for (let n = 0; n < 2; n++)
      await answers.to(huge, () => {
        again++;
        return Promise.resolve('x'.repeat(17e6));
      });
    expect(again).toBe(3);
  });
});

it('answers to ever new questions give way to one another', async () => {
  const question = (n: number) => ({ key: `/hosts?q=${n}`, dependsOn: ['pool'] as Topic[] });
  for (let n = 0; n < 2_010; n++) await ask(question(n));
  expect(made).toBe(2_010);
  await ask(question(2_009));
  expect(made).toBe(2_010);
  await ask(question(3));
  expect(made).toBe(2_011);
});

describe('sending one', () => {
  const long = { text: 'long '.repeat(1_000) };
  let app: Express;
  beforeEach(() => {
    app = express();
    app.get('/long', async (req, res) =>
      sendAnswer(req, res, await answers.to({ key: 'l', dependsOn: ['line'] }, () => Promise.resolve(long))),
    );
    app.get('/short', async (req, res) =>
      sendAnswer(req, res, await answers.to({ key: 's', dependsOn: ['line'] }, () => Promise.resolve([1]))),
    );
  });

  it('is compressed for those who take it so, and the same for those who do not', async () => {
    // The client unpacks it by itself.
    const zipped = await request(app).get('/long').set('accept-encoding', 'gzip');
    expect([zipped.headers['content-encoding'], zipped.body]).toEqual(['gzip', long]);
    expect(Number(zipped.headers['content-length'])).toBeLessThan(200);
    const plain = await request(app).get('/long').set('accept-encoding', 'identity');
    expect(plain.headers['content-encoding']).toBeUndefined();
    expect(plain.body).toEqual(long);
  });

  it('that was made anew and is the same is not compressed again; another one is', async () => {
    let value: object = long;
    const question = { key: 'renewed', dependsOn: ['line'] as Topic[] };
    const take = () => answers.to(question, () => Promise.resolve(value));
    const first = await take();
    first.zipped = Promise.resolve(Buffer.from('zipped once'));
    const renewed = async () => {
      const before = await take();
      real += 1_000;
      await take();
      await vi.waitUntil(async () => (await take()) !== before);
      return take();
    };
    expect(await (await renewed()).zipped).toEqual(Buffer.from('zipped once'));
    value = { text: 'other '.repeat(1_000) };
    expect((await renewed()).zipped).toBeUndefined();
  });

  it('is not compressed when it is short', async () => {
    const { headers, body } = await request(app).get('/short').set('accept-encoding', 'gzip');
    expect([headers['content-encoding'], headers['content-type'], body]).toEqual([
      undefined,
      'application/json; charset=utf-8',
      [1],
    ]);
  });

  it('is left out for those who have it', async () => {
    const { headers } = await request(app).get('/long');
    const again = await request(app).get('/long').set('if-none-match', String(headers['etag']));
    expect([again.status, again.text]).toEqual([304, '']);
  });
});
