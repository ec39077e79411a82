/** C17: odd requests over the whole described API, seeded and bounded: each is refused in words, soon. */
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import type { FoundApplications } from '@vatline/contract/application-search';
import { TestServer } from './harness.ts';
import { packageStates } from '@vatline/core/package/version-state';
import { OddRequests, operationsOf, realIds, type DescribedApi } from './odd-requests.ts';
import { packagesOf } from './usual-requests.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open({ demo: true });
});
afterAll(() => server.close());

const SLOW_MS = 4_000;

describe('odd requests', () => {
  it('of every kind at every address are answered below 500, as problems, in time', async () => {
    const requests = new OddRequests('odd requests', await realIds((path) => server.get(path)));
    const described = await request(server.app.http).get('/api/openapi.json');
    const wrong: unknown[] = [];
    let sent = 0;
    for (const operation of operationsOf(described.body as DescribedApi)) {
      for (let round = 0; round < 9; round++) {
        const { method, path, body } = requests.next(operation, round);
        const call = request(server.app.http)[method](path);
        const begun = performance.now();
        const answer = await (body === undefined
          ? call
          : call.set('content-type', 'application/json').send(body));
        sent++;
        const took = performance.now() - begun;
        // A head of over 16 KB is refused before anything of ours sees it.
        if (answer.status === 431) continue;
        const isProblem = answer.status < 400 || /problem\+json/.test(String(answer.headers['content-type']));
        const faults = (answer.body as { faults?: unknown[] } | undefined)?.faults ?? [];
        if (
          answer.status >= 500 ||
          !isProblem ||
          took > SLOW_MS ||
          faults.length > 101 ||
          answer.text?.includes(server.folder)
        )
          wrong.push({
            method,
            path: path.slice(0, 180),
            body: body?.slice(0, 300),
            status: answer.status,
            took,
            text: answer.text?.slice(0, 200),
          });
      }
    }
    expect(wrong).toEqual([]);
    expect(sent).toBeGreaterThan(800);
  });

  it('addresses that cannot be decoded, queries given twice, forms without a boundary', async () => {
    const http = () => request(server.app.http);
    const statuses = await Promise.all([
      http().get('/api/v1/lines/%E0%A4%A'),
      http().get('/%E0%A4%A'),
      http().get(`/api/v1/lines/${'x'.repeat(7_000)}`),
      http().get(`/${'x/'.repeat(3_500)}`),
      http().get('/api/v1/version-deltas/download?from=a&from=b&to=c'),
      http().get('/api/v1/inventories?of=version:a&of=b'),
      http().get('/api/v1/captures/x/picture?path=a&path=b'),
      http().post('/api/v1/captures/upload').set('content-type', 'multipart/form-data').send('x'),
      http().patch(`/api/v1/packages/x`),
    ]);
    expect(statuses.map((answer) => answer.status).filter((status) => status >= 500)).toEqual([]);
  });

  it('of an hour at a working server: nothing to change, and a package that no host may have', async () => {
    const [row] = (await packagesOf((path) => server.get(path))).filter((one) =>
      one.versions.some((version) => version.state === 'live'),
    );
    const nothing = await request(server.app.http)
      .patch(`/api/v1/packages/${row?.id ?? ''}`)
      .set('content-type', 'application/json')
      .send('{}');
    expect([nothing.status, nothing.text]).toEqual([422, expect.stringContaining('names nothing to change')]);
    const version = row?.versions.find((one) => one.state === 'live')?.id ?? '';
    for (const state of packageStates) {
      await server.app.db.updateTable('package_version').set({ state }).where('id', '=', version).execute();
      const { found } = await server.getAnew<FoundApplications>('/applications');
      const own = found
        .flatMap((one) => one.containers)
        .filter((container) => container.packageVersionId === version);
      expect(own.map((container) => container.state)).toEqual([state]);
    }
  });
});
