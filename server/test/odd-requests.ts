/** Requests over the whole described API with something odd in most of them, the same for one seed. */
import { seededRandom } from '@vatline/core/random';
import { packagesOf } from './usual-requests.ts';

/** One operation of the OpenAPI document. */
export interface Operation {
  readonly method: 'get' | 'post' | 'put' | 'patch' | 'delete';
  readonly path: string;
  readonly parameters: readonly { name: string; in: string }[];
  readonly body: Record<string, unknown> | undefined;
}

export interface OddRequest {
  readonly method: Operation['method'];
  /** With its query. */
  readonly path: string;
  readonly body: string | undefined;
}

export interface DescribedApi {
  readonly paths: Record<string, Record<string, Record<string, unknown>>>;
}

export function operationsOf({ paths }: DescribedApi): Operation[] {
  return Object.entries(paths).flatMap(([path, methods]) =>
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

export class OddRequests {
  private readonly random: () => number;

  /** `known`: ids that there are, by the first part of a path. */
  constructor(
    seed: string,
    private readonly known: Readonly<Record<string, readonly string[]>>,
  ) {
    this.random = seededRandom(seed);
  }

  /** Rounds 0 and 1 break the body itself; from 3 on the ids are real ones. */
  next(operation: Operation, round: number): OddRequest {
    const ids = this.known[operation.path.split('/')[3] ?? ''] ?? [];
    const path = operation.path.replace(/\{(\w+)\}/g, () =>
      this.pick(round > 2 && ids.length > 0 ? ids : oddIds),
    );
    const query = operation.parameters
      .filter((one) => one.in === 'query')
      .flatMap(({ name }) => this.given(name))
      .join('&');
    return {
      method: operation.method,
      path: query ? `${path}?${query}` : path,
      body: this.bodyFor(operation, round),
    };
  }

  /** Left out, given once, or given twice. */
  private given(name: string): string[] {
    if (this.random() < 0.3) return [];
    const once = `${name}=${encodeURIComponent(this.pick(oddTexts))}`;
    return this.random() < 0.3 ? [once, `${name}=2`] : [once];
  }

  private bodyFor(operation: Operation, round: number): string | undefined {
    if (!operation.body || round === 0) return undefined;
    if (round === 1) return this.pick(['{', '[', 'null', '"x"', '{"a":1e999}', '[1,2', '\u0000']);
    return JSON.stringify(this.valueOf(operation.body));
  }

  private pick<T>(list: readonly T[]): T {
    return list[Math.floor(this.random() * list.length)] as T;
  }

  /** Something that looks like what the schema asks for, with one odd thing in it now and then. */
  private valueOf(schema: Record<string, unknown>, depth = 0): unknown {
    if (depth > 6 || this.random() < 0.12) return this.pick(oddValues);
    if ('const' in schema) return schema['const'];
    if (Array.isArray(schema['enum'])) return this.pick(schema['enum'] as unknown[]);
    for (const key of ['anyOf', 'oneOf'])
      if (Array.isArray(schema[key]))
        return this.valueOf(this.pick(schema[key] as Record<string, unknown>[]), depth + 1);
    switch (schema['type']) {
      case 'object':
        return Object.fromEntries(
          Object.entries((schema['properties'] ?? {}) as Record<string, Record<string, unknown>>).flatMap(
            ([name, child]) => (this.random() < 0.08 ? [] : [[name, this.valueOf(child, depth + 1)]]),
          ),
        );
      case 'array':
        return Array.from({ length: Math.floor(this.random() * 3) }, () =>
          this.valueOf((schema['items'] ?? {}) as Record<string, unknown>, depth + 1),
        );
      case 'string':
        return this.pick(['x', 'FREQ=DAILY', '01:00', 'Europe/Dublin', '2027-03', ...oddTexts]);
      case 'number':
      case 'integer':
        return this.pick([1, 2, 30, 0, 1e9]);
      case 'boolean':
        return this.random() < 0.5;
      default:
        return this.pick(oddValues);
    }
  }
}

/** Ids that there are, so that odd bodies reach what stands behind the first look-up. */
export async function realIds(
  get: <T>(path: string) => Promise<T>,
): Promise<Readonly<Record<string, string[]>>> {
  const ids = async (path: string) => (await get<{ id: string }[]>(path)).map((row) => row.id);
  const packages = await packagesOf(get);
  const lines = await get<{ id: string; versions: { id: string }[] }[]>('/lines');
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
