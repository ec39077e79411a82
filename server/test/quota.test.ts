/** Asking a site for more: once, answered by those who run it, also over a restart. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { QuotaRequest } from '@vatline/contract/estate';
import { TestServer } from './harness.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open();
});
afterAll(() => server.close());

const ask = (body: object) => server.send<{ id: string }>('post', '/estate/quota-requests', body);
const requests = () => server.get<QuotaRequest[]>('/estate/quota-requests');
const request = async (id: string) => (await requests()).find((one) => one.id === id);
const site = async (name: string) =>
  (await server.app.estate.hypervisor.sites()).find((one) => one.name === name);
const told = async (text: string) =>
  (await server.app.db.selectFrom('journal').select('text').where('text', '=', text).execute()).length;

describe('a request for more', () => {
  it('is granted after a while, once, and told', async () => {
    const { id } = await ask({
      site: 'yard-b',
      cores: 200,
      memoryBytes: 224e9,
      text: 'for the records office',
    });
    expect(await request(id)).toMatchObject({
      state: 'asked',
      cores: 200,
      text: 'for the records office',
      answer: '',
    });
    expect((await site('yard-b'))?.cores.total).toBe(384);
    await server.advance(12 * 60);
    expect(await request(id)).toMatchObject({ state: 'granted', answer: '' });
    expect((await site('yard-b'))?.cores.total).toBe(584);
    expect((await site('yard-b'))?.memoryBytes.total).toBe(2_624e9);
    expect(await told('yard-b gives what it was asked for')).toBe(1);
  });

  it('that is too much is refused with the reason', async () => {
    const { id } = await ask({ site: 'yard-a', cores: 641 });
    await server.advance(12 * 60);
    expect(await request(id)).toMatchObject({
      state: 'refused',
      answer: 'those who run yard-a do not double it; ask for less, or for another site',
    });
    expect((await site('yard-a'))?.cores.total).toBe(640);
  });

  it('written down before the server stopped is asked afterwards; answered meanwhile, it is heard', async () => {
    const { db } = server.app;
    const row = {
      id: 'quota-unasked',
      site: 'yard-a',
      cores: 10,
      memory_bytes: 0,
      graphics: 0,
      text: '',
      asked_ms: server.now,
      state: 'asked' as const,
      answer: '',
      answered_ms: null,
    };
    await db.insertInto('quota_request').values(row).execute();
    await server.restart();
    await server.advance(12 * 60);
    expect(await request(row.id)).toMatchObject({ state: 'granted' });
    expect((await site('yard-a'))?.cores.total).toBe(650);
    // As if the stop had come between the answer and hearing it.
    await server.app.db
      .updateTable('quota_request')
      .set({ state: 'asked' })
      .where('id', '=', row.id)
      .execute();
    await server.restart();
    expect(await request(row.id)).toMatchObject({ state: 'granted' });
    expect((await site('yard-a'))?.cores.total).toBe(650);
  });

  it.each([
    [{ site: 'yard-z', cores: 1 }, 'site'],
    [{ site: 'yard-a' }, 'cores'],
    [{ site: 'yard-a', cores: -1 }, 'cores'],
    [{ site: 'yard-a', cores: 2_000_000 }, 'cores'],
    [{ site: 'yard-a', cores: 1, text: 'x'.repeat(2_001) }, 'text'],
  ])('of %j is refused at its field', async (body, path) => {
    expect(await server.refused('post', '/estate/quota-requests', body)).toMatchObject({
      status: 422,
      paths: [path],
    });
  });
});
