/** C17: odd requests over the whole described API, seeded and bounded: each is refused in words, soon. */
import request from 'supertest';
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { seededRandom } from '@vatline/core/random';
import { TestServer } from './harness.ts';

let server: TestServer;
beforeAll(async () => {
  server = await TestServer.open({ demo: true });
}, 120_000);
afterAll(() => server.close());

interface Operation {
  readonly method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  readonly path: string;
  readonly parameters: readonly { name: string; in: string }[];
  readonly body: Record<string, unknown> | undefined;
}

async function operations(): Promise<Operation[]> {
  const { body } = (await request(server.app.http).get('/api/openapi.json')) as {
    body: { paths: Record<string, Record<string, Record<string, unknown>>> };
  };
  return Object.entries(body.paths).flatMap(([path, methods]) =>
    Object.entries(methods).map(([method, operation]) => ({
      method: method as Operation['method'],
      path,
      parameters: (operation['parameters'] ?? []) as Operation['parameters'],
      body: bodySchema(operation),
    })),
  );
}

function bodySchema(operation: Record<string, unknown>): Operation['body'] {
  const body = operation['requestBody'] as
    { content: Record<string, { schema: Record<string, unknown> }> } | undefined;
  return body?.content['application/json']?.schema;
}

const random = seededRandom('odd requests');
const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)] as T;

const oddTexts = [
  '',
  ' ',
  'x',
  '\0',
  '../../etc/passwd',
  '%',
  '__proto__',
  '𝄞'.repeat(50),
  'x'.repeat(7_000),
  "' or 1=1",
];
const oddValues: readonly unknown[] = [
  null,
  true,
  -1,
  0,
  1e308,
  -1e308,
  1.5,
  9e15,
  [],
  {},
  [[]],
  { __proto__: null },
  ...oddTexts,
  Array.from({ length: 3_000 }, () => 'x'),
];
const oddIds = [
  'x',
  '%E0%A4%A',
  '%00',
  '..%2f..',
  '%2e%2e',
  'constructor',
  'x'.repeat(7_000),
  encodeURIComponent('\'"'),
];

/** Something that looks like what the schema asks for, with one odd thing in it now and then. */
function valueOf(schema: Record<string, unknown>, depth = 0): unknown {
  if (depth > 6 || random() < 0.12) return pick(oddValues);
  if ('const' in schema) return schema['const'];
  if (Array.isArray(schema['enum'])) return pick(schema['enum'] as unknown[]);
  for (const key of ['anyOf', 'oneOf'])
    if (Array.isArray(schema[key])) return valueOf(pick(schema[key] as Record<string, unknown>[]), depth + 1);
  switch (schema['type']) {
    case 'object':
      return Object.fromEntries(
        Object.entries((schema['properties'] ?? {}) as Record<string, Record<string, unknown>>).flatMap(
          ([name, child]) => (random() < 0.08 ? [] : [[name, valueOf(child, depth + 1)]]),
        ),
      );
    case 'array':
      return Array.from({ length: Math.floor(random() * 3) }, () =>
        valueOf((schema['items'] ?? {}) as Record<string, unknown>, depth + 1),
      );
    case 'string':
      return pick(['x', 'FREQ=DAILY', '01:00', 'Europe/Dublin', '2027-03', ...oddTexts]);
    case 'number':
    case 'integer':
      return pick([1, 2, 30, 0, 1e9]);
    case 'boolean':
      return random() < 0.5;
    default:
      return pick(oddValues);
  }
}

/** Ids that there are, so that odd bodies reach what stands behind the first look-up. */
async function realIds(): Promise<Record<string, string[]>> {
  const ids = async (path: string) => (await server.get<{ id: string }[]>(path)).map((row) => row.id);
  const packages = await server.get<{ id: string; versions: { id: string }[] }[]>('/packages');
  const lines = await server.get<{ id: string; versions: { id: string }[] }[]>('/lines');
  return {
    lines: lines.map((row) => row.id),
    versions: lines.flatMap((row) => row.versions.map((version) => version.id)),
    packages: packages.map((row) => row.id),
    'package-versions': packages.flatMap((row) => row.versions.map((version) => version.id)),
    pools: await ids('/pools'),
    rollouts: await ids('/rollouts'),
    installations: await ids('/installations'),
    'option-suites': await ids('/option-suites'),
    certificates: await ids('/certificates'),
  };
}

const SLOW_MS = 4_000;

describe('odd requests', () => {
  it('of every kind at every address are answered below 500, as problems, in time', async () => {
    const known = await realIds();
    const wrong: unknown[] = [];
    let sent = 0;
    for (const operation of await operations()) {
      // Moving the clock would let the demo run; what stops jobs is asked with ids that are none.
      for (let round = 0; round < 9; round++) {
        const group = operation.path.split('/')[3] ?? '';
        const path = operation.path.replace(/\{(\w+)\}/g, () =>
          round > 2 && known[group]?.length ? pick(known[group]) : pick(oddIds),
        );
        const query = operation.parameters
          .filter((one) => one.in === 'query')
          .flatMap(({ name }) =>
            random() < 0.3
              ? []
              : [
                  `${name}=${encodeURIComponent(String(pick(oddTexts)))}`,
                  ...(random() < 0.3 ? [`${name}=2`] : []),
                ],
          )
          .join('&');
        const call = request(server.app.http)[operation.method](`${path}${query ? `?${query}` : ''}`);
        const body = bodyFor(operation, round);
        const begun = performance.now();
        const answer = await (body === undefined
          ? call
          : call.set('content-type', 'application/json').send(body));
        sent++;
        const took = performance.now() - begun;
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
            method: operation.method,
            path: path.slice(0, 90),
            query: query.slice(0, 90),
            body: body?.slice(0, 300),
            status: answer.status,
            took,
            text: answer.text?.slice(0, 200),
          });
      }
    }
    expect(wrong).toEqual([]);
    expect(sent).toBeGreaterThan(800);
  }, 240_000);

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
});

function bodyFor(operation: Operation, round: number): string | undefined {
  if (!operation.body) return undefined;
  if (round === 0) return undefined;
  if (round === 1) return pick(['{', '[', 'null', '"x"', '{"a":1e999}', '[1,2', '\u0000']);
  return JSON.stringify(valueOf(operation.body));
}
