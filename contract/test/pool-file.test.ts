import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { newPoolSchema, poolDraftSchema, settingsOf, type PoolDraft } from '../src/pool/kinds.ts';
import { readPoolFile, writePoolFile } from '../src/pool/pool-file.ts';

const draft: PoolDraft = {
  name: 'records-office',
  imageVersionId: 'version-1',
  kind: 'pooled',
  clone: 'linked',
  sessionLimit: 12,
  size: 'shared-8',
  pattern: 'WCL-RO-##',
  start: 1,
  count: 60,
  ou: 'OU=Desks,OU=Hosts,DC=wrenfield,DC=example',
  places: [
    { site: 'yard-b', network: 'desks', datastore: 'standard', atMost: 20 },
    { site: 'yard-a', network: 'desks', datastore: 'fast' },
  ],
  afterMaking: 'first line\nsecond line\n',
};

/** Of what people call things, spaces around are not kept. */
const trimmed = (maxLength: number) => fc.string({ maxLength }).filter((text) => text === text.trim());

describe('the pool file', () => {
  it('is the draft, one to one, scripts line by line, the version called by its name', () => {
    const text = writePoolFile(draft, 'Reader desktop 11');
    expect(text).toContain('pool: 1\n');
    expect(text).toContain('imageVersionId: version-1 # Reader desktop 11\n');
    expect(text).toContain('afterMaking: |\n  first line\n  second line\n');
    expect(readPoolFile(text)).toEqual({ ok: true, value: draft });
  });

  it('comes back from what is written, whatever is chosen', () =>
    fc.assert(
      fc.property(
        fc.record(
          {
            name: trimmed(30),
            description: fc.string({ maxLength: 60 }),
            tags: fc.array(trimmed(10), { maxLength: 3 }),
            count: fc.integer({ min: -5, max: 20_000 }),
            idleMinutes: fc.option(fc.nat(500)),
            joinAccount: fc.option(trimmed(20)),
            isHeld: fc.boolean(),
            signOut: fc.constantFrom('keep', 'return to clean'),
            afterMaking: fc.string({ unit: fc.constantFrom('a', ' ', '\n', '#', ':', '"'), maxLength: 40 }),
          },
          { requiredKeys: [] },
        ),
        (given) => {
          expect(readPoolFile(writePoolFile(given as PoolDraft))).toEqual({ ok: true, value: given });
        },
      ),
    ));

  it.each([
    ['pool: 2\n', { line: 1, path: 'pool', message: 'must be 1, the version of this format' }],
    ['pool: 1\ncont: 4\n', { line: 2, path: 'cont', message: 'is not a field of a pool' }],
    [
      'pool: 1\nplaces:\n  - sight: yard-b\n',
      { line: 3, path: 'places.0.sight', message: 'is not a field of a pool' },
    ],
    ['name: a\n', { line: 1, path: 'pool', message: 'must be 1, the version of this format' }],
    ['pool: 1\nkind: shared\n', { line: 2, path: 'kind' }],
    ['pool: [\n', { line: 2 }],
  ])('%j is told at its line', (text, fault) => {
    const read = readPoolFile(text);
    expect(read.ok ? [] : read.error[0]).toMatchObject(fault);
  });
});

describe('a new pool', () => {
  const faults = (change: object) => {
    const parsed = newPoolSchema.safeParse({ ...draft, ...change });
    return parsed.success ? [] : parsed.error.issues.map((issue) => [issue.path.join('.'), issue.message]);
  };
  it('needs no more than what cannot be guessed, and keeps the rest as usual', () => {
    const parsed = newPoolSchema.parse(draft);
    expect(settingsOf(parsed)).toEqual({
      title: '',
      description: '',
      tags: [],
      chassis: null,
      scratchGigabytes: 6,
      store: null,
      signOut: 'keep',
      idleMinutes: null,
      disconnectMinutes: null,
      mayRestart: true,
      zone: null,
      size: 'shared-8',
      dataGigabytes: 0,
      days: 30,
      joinAccount: null,
      licence: null,
      afterMaking: 'first line\nsecond line\n',
      isHeld: false,
    });
    expect(poolDraftSchema.safeParse(parsed).success).toBe(true);
  });
  it.each([
    [{ count: 0 }, 'count', 'must be at least 1'],
    [{ count: 10_001 }, 'count', 'must be at most 10,000'],
    [{ count: 1.5 }, 'count', 'Invalid input: expected int, received number'],
    [{ days: 0 }, 'days', 'must be at least 1'],
    [{ idleMinutes: 0 }, 'idleMinutes', 'must be at least 1 minute; leave it empty for no limit'],
    [{ atOnce: 51 }, 'atOnce', 'must be at most 50'],
    [{ tags: ['Two Words'] }, 'tags.0', 'must be small letters, digits and hyphens'],
    [{ places: [] }, 'places', 'choose a place'],
    [
      {
        places: [
          { site: 'a', network: 'b', datastore: 'c' },
          { site: 'a', network: 'b', datastore: 'c' },
        ],
      },
      'places',
      'all but the last need a number of hosts',
    ],
    [{ afterMaking: 'x'.repeat(32_001) }, 'afterMaking', 'has over 32,000 characters'],
    [
      { places: Array(5).fill({ site: 'a', network: 'b', datastore: 'c', atMost: 1 }) },
      'places',
      'Too big: expected array to have <=4 items',
    ],
  ])('%j is refused at %s', (change, path, message) => expect(faults(change)).toEqual([[path, message]]));
});
