/** What changes and who hears of it: topics of endpoints, found in what was asked. */
import { describe, expect, it } from 'vitest';
import { z } from 'zod';
import { api } from '../src/api.ts';
import type { Endpoint } from '../src/endpoint.ts';
import { partsOf, topicKinds, topicOfSubject, topicsOf, type Topic } from '../src/topics.ts';

const endpoints = Object.entries(api).flatMap(([group, all]) =>
  Object.entries(all).map(([name, endpoint]): [string, Endpoint] => [`${group}.${name}`, endpoint]),
);
const topics = (read: (endpoint: Endpoint) => readonly Topic[]) =>
  endpoints.flatMap(([name, endpoint]) =>
    read(endpoint).map((topic): [string, Endpoint, Topic] => [name, endpoint, topic]),
  );

/** Questions that are too large for an address, and change nothing. */
const questions = new Set([
  'blends.checks',
  'firstDesktops.preview',
  'hostActions.preview',
  'installations.forecast',
  'moreHosts.preview',
  'noiseRules.try',
  'packages.blendClashes',
  'pools.preview',
  'ringOrders.forecast',
  'rollouts.forecast',
  'rollouts.previewPlan',
  'rollouts.suggest',
]);

describe('the topics of a call', () => {
  it('are found in the address, the query, the body or the answer, in this order', () => {
    const asked = { params: { id: 'a' }, query: { id: 'q', of: 'b' }, body: { poolId: 'c', of: 'x' } };
    expect(topicsOf(['line:{id}', 'pool:{of}', 'pool:{poolId}'], asked)).toEqual([
      'line:a',
      'pool:b',
      'pool:c',
    ]);
    expect(topicsOf(['job:{jobId}'], asked, { jobId: 'd' })).toEqual(['job:d']);
  });
  it('mean all of a kind where nothing has the name', () =>
    expect(topicsOf(['line:{id}', 'clock'], { params: { id: 3 }, body: null })).toEqual(['line', 'clock']));
  it('may have colons in what they are of', () => {
    expect(partsOf('delta:version-1:version-2')).toEqual(['delta', 'version-1:version-2']);
    expect(partsOf('clock')).toEqual(['clock', '']);
  });
  it('are the subject of a job where somebody looks at such', () => {
    expect(topicOfSubject('pool:pool-1')).toEqual(['pool:pool-1']);
    expect(topicOfSubject('noise-rules')).toEqual([]);
  });
});

describe('every endpoint', () => {
  it('that only reads changes nothing, and one that changes depends on nothing', () => {
    const wrong = endpoints.filter(([, { method, changes, dependsOn }]) =>
      method === 'get' ? changes.length > 0 : changes.length > 0 && dependsOn.length > 0,
    );
    expect(wrong.map(([name]) => name)).toEqual([]);
  });

  it('that is no reading says what it changes, or is a question', () => {
    const silent = endpoints.filter(
      ([name, { method, changes }]) => method !== 'get' && changes.length === 0 && !questions.has(name),
    );
    expect(silent.map(([name]) => name)).toEqual([]);
  });

  it('names in its topics only what a call or its answer has', () => {
    const named = topics((endpoint) => [...endpoint.changes, ...endpoint.dependsOn]);
    const wrong = named.filter(([, endpoint, topic]) => {
      const field = /^\{(\w+)\}$/.exec(partsOf(topic)[1])?.[1];
      return (
        field !== undefined &&
        ![endpoint.params, endpoint.query, endpoint.body, endpoint.response].some((schema) =>
          hasField(schema, field),
        )
      );
    });
    expect(wrong.map(([name, , topic]) => `${name} ${topic}`)).toEqual([]);
  });

  it('that changes something is heard by somebody', () => {
    const heard = new Set(topics((endpoint) => endpoint.dependsOn).map(([, , topic]) => partsOf(topic)[0]));
    const unheard = topics((endpoint) => endpoint.changes).filter(
      ([, , topic]) => !heard.has(partsOf(topic)[0]),
    );
    expect(unheard.map(([name, , topic]) => `${name} ${topic}`)).toEqual([]);
    expect(topicKinds.filter((kind) => !heard.has(kind))).toEqual([]);
  });
});

function hasField(schema: z.ZodType, field: string): boolean {
  const { properties } = z.toJSONSchema(schema, { unrepresentable: 'any' }) as { properties?: object };
  return properties !== undefined && Object.hasOwn(properties, field);
}
