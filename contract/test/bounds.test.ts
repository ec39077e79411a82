/** Everything that comes from outside has a bound: a text its length, a list its items, a number its ends. */
import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { api } from '../src/api.ts';

type Json = Record<string, unknown>;

/** Paths of a JSON schema at which something may be as large as somebody likes. */
function unbounded(schema: Json, path: string): string[] {
  const found: string[] = [];
  const type = schema['type'];
  if ('const' in schema || 'enum' in schema) return [];
  if (type === 'string' && schema['maxLength'] === undefined) found.push(`${path}: text`);
  if (
    (type === 'number' || type === 'integer') &&
    (outOfReach(schema['maximum']) || outOfReach(schema['minimum']))
  )
    found.push(`${path}: number`);
  if (type === 'array') {
    if (schema['maxItems'] === undefined && schema['prefixItems'] === undefined) found.push(`${path}: list`);
    if (schema['items']) found.push(...unbounded(schema['items'] as Json, `${path}[]`));
  }
  for (const [name, child] of Object.entries((schema['properties'] ?? {}) as Record<string, Json>))
    found.push(...unbounded(child, `${path}.${name}`));
  const values = schema['additionalProperties'];
  if (values && typeof values === 'object') {
    if (schema['maxProperties'] === undefined && !schema['propertyNames']) found.push(`${path}: record`);
    found.push(...unbounded(values as Json, `${path}{}`));
  }
  for (const key of ['anyOf', 'oneOf', 'allOf'])
    for (const child of (schema[key] ?? []) as Json[]) found.push(...unbounded(child, path));
  return found;
}

/** Zod gives whole numbers the ends of what a number can tell apart, which is no bound. */
function outOfReach(end: unknown): boolean {
  return typeof end !== 'number' || Math.abs(end) >= Number.MAX_SAFE_INTEGER;
}

/** A draft of a manifest is kept as it is typed; with the whole body it has 2 MB at the most. */
const heldOtherwise = new Set(['body.manifest: record']);

describe('B7: every input of the API', () => {
  const endpoints = Object.entries(api).flatMap(([tag, list]) =>
    Object.entries(list).map(([name, endpoint]) => [`${tag}.${name}`, endpoint] as const),
  );
  it.each(endpoints)('%s is bounded', (_name, endpoint) => {
    const found = (['params', 'query', 'body'] as const).flatMap((part) =>
      unbounded(z.toJSONSchema(endpoint[part], { io: 'input', unrepresentable: 'any' }) as Json, part),
    );
    expect(found.filter((one) => !heldOtherwise.has(one))).toEqual([]);
  });
});
