/** What goes over the wire small, and what goes as it is. */
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { brotliCompressSync } from 'node:zlib';
import express, { type Express } from 'express';
import { pino } from 'pino';
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { z } from 'zod';
import { endpoint, rawEndpoint } from '@vatline/contract/endpoint';
import { Answers } from '../src/platform/answers.ts';
import { Door } from '../src/platform/door.ts';
import { createHttp } from '../src/platform/http.ts';

const script = 'export const line = 1;\n'.repeat(500);
let folder: string;
let app: Express;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'vatline-http-'));
  mkdirSync(join(folder, 'assets'));
  writeFileSync(join(folder, 'index.html'), '<title>Vat Line</title>');
  writeFileSync(join(folder, 'assets/page.js'), script);
  writeFileSync(join(folder, 'assets/page.js.br'), brotliCompressSync(script));
  const router = express.Router();
  const answers = new Answers(
    () => 0,
    () => 0,
  );
  const door = new Door(
    router,
    { changedTopics: () => undefined },
    { caller: { role: 'engineer' } },
    answers,
  );
  const answer = { method: 'get' as const, summary: '', response: z.string() };
  door.serve(endpoint({ ...answer, path: '/large' }), () => 'x'.repeat(50_000));
  door.serve(endpoint({ ...answer, path: '/small' }), () => 'x');
  const file = rawEndpoint({ method: 'get', path: '/file', summary: '', gives: 'application/json' });
  door.serveRaw(file, ({ response }) => {
    response.type('application/json').send(`"${'x'.repeat(50_000)}"`);
    return Promise.resolve();
  });
  router.get(
    '/live',
    (_request, response) => void response.type('text/event-stream').end('data: []\n\n'.repeat(500)),
  );
  const trouble = { notice: () => false, current: null } as never;
  app = createHttp({ log: pino({ level: 'silent' }), trouble }, router, folder, ['127.0.0.1']);
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

const encodingOf = async (path: string, accepts: string) => {
  const { headers, status } = await request(app).get(path).set('accept-encoding', accepts);
  return [status, (headers as Record<string, string | undefined>)['content-encoding']];
};

describe('the interface', () => {
  it('goes as it was compressed when it was built, to those who take that', async () => {
    expect(await encodingOf('/assets/page.js', 'gzip, br')).toEqual([200, 'br']);
    expect(await encodingOf('/assets/page.js', 'identity')).toEqual([200, undefined]);
    const { text, headers } = await request(app).get('/assets/page.js').set('accept-encoding', 'identity');
    expect([text, headers['cache-control']]).toEqual([script, 'public, max-age=31536000, immutable']);
  });
});

describe('an answer of the API', () => {
  it('of over a kilobyte is compressed', async () => {
    expect(await encodingOf('/api/large', 'gzip')).toEqual([200, 'gzip']);
    const { body } = await request(app).get('/api/large').set('accept-encoding', 'gzip');
    expect(body).toBe('x'.repeat(50_000));
  });
  it.each(['/api/small', '/api/file', '/api/live'])('%s goes as it is', async (path) => {
    expect(await encodingOf(path, 'gzip, br')).toEqual([200, undefined]);
  });
});
