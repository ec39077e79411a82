/** Files that people keep: what is written is read back the same, whatever they hold; what is wrong is named where it stands. */
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { entryKinds } from '@vatline/core/inventory/entry';
import type { NoiseRule } from '@vatline/core/package/noise';
import { optionSuiteSchema, type OptionSuiteInput } from '../src/option-sheet.ts';
import { readSuiteFile, writeSuiteFile } from '../src/option-suite-file.ts';
import { planFileSchema, planOf } from '../src/plan-file.ts';
import { readRuleFile, writeRuleFile } from '../src/rule-file.ts';
import { bulkRequestSchema } from '../src/bulk.ts';
import { newPoolSchema } from '../src/pool/kinds.ts';
import { officeSuite } from './every-kind.ts';

/** Text with whatever a YAML file must not trip over, without what fields trim away. */
const anyLine = fc
  .oneof(
    fc.string({ unit: 'binary', minLength: 1, maxLength: 40 }),
    fc.constantFrom(
      'yes',
      'null',
      '~',
      '1e3',
      '0x1F',
      '- a',
      'a: b',
      '#no comment',
      '"',
      "'",
      '[x',
      '|',
      '>',
      '@a',
    ),
  )
  .map((text) => text.trim())
  .filter((text) => text !== '' && text.isWellFormed() && text.length <= 300);

const glob = fc.constantFrom('**/*.log', 'Program files/**', 'a?b', '{x,y}/*.tmp');
const rule: fc.Arbitrary<NoiseRule> = fc
  .record({
    action: fc.constantFrom('drop' as const, 'keep' as const),
    kinds: fc.option(fc.uniqueArray(fc.constantFrom(...entryKinds), { minLength: 1, maxLength: 4 }), {
      nil: undefined,
    }),
    glob,
    reason: anyLine,
  })
  .map(({ kinds, ...rest }) => ({ id: 'id', ...(kinds ? { kinds } : {}), ...rest }));
const rules = fc
  .array(rule, { maxLength: 12 })
  .map((list) => list.map((one, i): NoiseRule => ({ ...one, id: `rule ${i}` })));

describe('a rule file', () => {
  it('gives back the rules that were written, whatever their reasons say', () => {
    const property = fc.property(rules, (list) => {
      const read = readRuleFile(writeRuleFile(list));
      expect(read).toEqual({ ok: true, value: list });
    });
    fc.assert(property);
  });

  it('is the same text when what it holds is written again', () => {
    const property = fc.property(rules, (list) => {
      const text = writeRuleFile(list);
      const read = readRuleFile(text);
      expect(read.ok && writeRuleFile(read.value)).toBe(text);
    });
    fc.assert(property);
  });

  it('names what is wrong by line, column and field', () => {
    const read = readRuleFile(
      'rules:\n  - id: logs\n    action: hide\n    glob: "**/*.log"\n    reason: logs\n',
    );
    expect(read.ok ? [] : read.error).toMatchObject([
      { line: 3, path: 'rules.0.action', message: 'must be drop or keep' },
    ]);
  });
});

const choice = fc
  .uniqueArray(anyLine, { minLength: 1, maxLength: 4 })
  .map((choices) => ({ kind: 'choice' as const, choices, default: choices[0] ?? '' }));
const option = fc.oneof(
  choice,
  fc.boolean().map((value) => ({ kind: 'switch' as const, default: value })),
  anyLine.map((value) => ({ kind: 'text' as const, default: value })),
);
const suite = fc
  .record({
    publisher: anyLine,
    version: anyLine,
    options: fc.array(option, { maxLength: 5 }),
    label: anyLine,
  })
  .map(({ options, label, ...rest }) => ({
    ...rest,
    name: 'Suite',
    options: options.map((one, i) => ({ id: `option${i}`, label, ...one })),
    rules: [],
    templates: [{ name: 'command', form: 'plain' as const, text: 'setup.exe\n/quiet\n' }],
  }));

describe('a declaration of a suite', () => {
  it('gives back what was written, whatever its labels and choices say', () => {
    const property = fc.property(suite, (any) => {
      const parsed = optionSuiteSchema.safeParse(any);
      fc.pre(parsed.success);
      const own = parsed.data as OptionSuiteInput;
      expect(readSuiteFile(writeSuiteFile(own))).toEqual({ ok: true, value: own });
    });
    fc.assert(property);
  });

  it('keeps a template line by line', () => {
    const text = writeSuiteFile({
      ...(officeSuite as unknown as OptionSuiteInput),
      templates: [{ name: 'command', form: 'plain', text: 'setup.exe\n/quiet\n' }],
    });
    expect(text).toContain('text: |\n      setup.exe\n      /quiet\n');
  });

  it('that names an option which is not there says where', () => {
    const text = writeSuiteFile({
      ...(officeSuite as unknown as OptionSuiteInput),
      templates: [{ name: 'command', form: 'plain', text: 'setup.exe {{language}}' }],
    });
    const read = readSuiteFile(text);
    expect(read.ok ? [] : read.error.map(({ path, line }) => [path, line > 0])).toEqual([
      ['templates.0.text', true],
    ]);
  });
});

describe('a plan file', () => {
  const plan = {
    from: '2027-03-22T08:00:00+01:00',
    zone: 'Europe/Dublin',
    window: { rule: 'FREQ=DAILY', start: '22:00', end: '04:00' },
    hosts: 100,
    batch: 10,
    maxUnavailable: 12,
    work: { medianMinutes: 25, p90Minutes: 40 },
  };

  it('has defaults for what it need not say, and becomes the plan of the core', () => {
    const file = planFileSchema.parse(plan);
    expect(planOf(file)).toEqual({
      from: Date.UTC(2027, 2, 22, 7),
      rings: [
        {
          name: 'all',
          window: { ...plan.window, zone: 'Europe/Dublin' },
          hosts: Array.from({ length: 100 }, (_, i) => `host ${i + 1}`),
          batch: 10,
          maxUnavailable: 12,
          work: plan.work,
          drain: { limitMinutes: 0 },
          failure: { rate: 0, retries: 0 },
        },
      ],
      runs: 1_000,
      seed: 1,
    });
  });

  it('takes hosts by name, and refuses a number of them that is none', () => {
    const named = planFileSchema.parse({ ...plan, hosts: ['WCL-DS-001', 'WCL-DS-002'] });
    expect(planOf(named).rings[0]?.hosts).toEqual(['WCL-DS-001', 'WCL-DS-002']);
    for (const hosts of [0, 2.5, 100_001, []])
      expect(planFileSchema.safeParse({ ...plan, hosts }).success).toBe(false);
  });

  it('gives seats the zone of the plan', () => {
    const seats = { hosts: 100, perHost: 10, expected: Array.from({ length: 24 }, () => 5) };
    const file = planFileSchema.parse({ ...plan, seats });
    expect(planOf(file).rings[0]?.seats).toEqual({ ...seats, reserve: 0, zone: 'Europe/Dublin' });
  });

  it('takes hosts that are attached in service, all of them or some; all need no other work', () => {
    const checks = { everyMinutes: 5, attachMinutes: 1 };
    const { work: _work, ...attached } = plan;
    const all = planFileSchema.parse({ ...attached, inService: checks });
    expect(planOf(all).rings[0]?.inService).toEqual({ checks });
    const some = planFileSchema.parse({ ...plan, inService: { ...checks, hosts: ['host 1'] } });
    expect(planOf(some).rings[0]?.inService).toEqual({ checks, hosts: ['host 1'] });
    const lacking = planFileSchema.safeParse({ ...attached, inService: { ...checks, hosts: ['host 1'] } });
    expect(lacking.error?.issues.map(({ path, message }) => [path.join('.'), message])).toEqual([
      ['work', 'is missing'],
    ]);
  });

  it('takes rings in place of one ring; what all share is said once', () => {
    const { window, hosts: _hosts, batch: _batch, maxUnavailable: _most, ...shared } = plan;
    const ring = { window, batch: 2, maxUnavailable: 2 };
    const file = planFileSchema.parse({
      ...shared,
      rings: [
        { ...ring, name: 'pilot', hosts: 2, gate: { soakHours: 48, stop: { failures: 1 } } },
        { ...ring, name: 'rest', hosts: 3, work: { medianMinutes: 8, p90Minutes: 8 }, opens: 'at once' },
      ],
      closed: ['2027-03-25'],
      limits: [{ name: 'clones', atOnce: 12 }],
    });
    const { rings, limits } = planOf(file);
    expect(limits).toEqual([{ name: 'clones', atOnce: 12 }]);
    expect(rings.map((one) => one.hosts)).toEqual([
      ['host 1', 'host 2'],
      ['host 3', 'host 4', 'host 5'],
    ]);
    expect(rings.map((one) => one.work.medianMinutes)).toEqual([25, 8]);
    expect(rings[0]?.gate).toEqual({
      finishedShare: 1,
      soakHours: 48,
      approvalHours: 0,
      stop: { failures: 1, share: null, after: 0 },
    });
    expect(rings.map((one) => [...(one.window.closed?.dates ?? [])])).toEqual([
      ['2027-03-25'],
      ['2027-03-25'],
    ]);
  });

  it('reads an instant in any zone as the same instant', () => {
    const property = fc.property(
      fc.date({ min: new Date('2000-01-01'), max: new Date('2099-01-01'), noInvalidDate: true }),
      fc.integer({ min: -12, max: 14 }),
      (date, hours) => {
        const instant = Math.floor(date.getTime() / 1_000) * 1_000;
        const there = new Date(instant + hours * 3_600_000).toISOString().slice(0, 19);
        const sign = hours < 0 ? '-' : '+';
        const from = `${there}${sign}${String(Math.abs(hours)).padStart(2, '0')}:00`;
        expect(planOf(planFileSchema.parse({ ...plan, from })).from).toBe(instant);
      },
    );
    fc.assert(property);
  });

  it.each([
    ['no zone in the instant', { from: '2027-03-22T08:00:00' }, 'from'],
    ['a field that it does not know', { pace: 3 }, ''],
    [
      'a batch beside rings',
      {
        rings: [{ name: 'a', hosts: 1, window: plan.window, batch: 1, maxUnavailable: 1 }],
        window: undefined,
        hosts: undefined,
        maxUnavailable: undefined,
      },
      'batch',
    ],
    ['neither a batch nor rings', { batch: undefined }, 'batch'],
    ['no work', { work: undefined }, 'work'],
    ['a day that is none', { closed: ['2027-02-30'] }, 'closed.0'],
    ['seats of 23 hours', { seats: { hosts: 1, perHost: 1, expected: Array(23).fill(1) } }, 'seats.expected'],
  ])('is refused with %s', (_what, part, path) => {
    const read = planFileSchema.safeParse({ ...plan, ...part });
    expect(read.error?.issues.map((issue) => issue.path.join('.'))).toEqual([path]);
  });
});

describe('many at once', () => {
  const row = fc.record({ name: anyLine, version: anyLine });
  const request = fc.oneof(
    fc.record({ action: fc.constant('draft'), rows: fc.array(row, { minLength: 1, maxLength: 5 }) }),
    fc.record({ action: fc.constant('sign'), certificateId: anyLine, versionIds: fc.constant(['a']) }),
    fc.record({
      action: fc.constant('assign'),
      rows: fc.array(fc.record({ package: anyLine, group: anyLine, pool: anyLine }), {
        minLength: 1,
        maxLength: 5,
      }),
    }),
  );

  it('passes as it was asked for, and again as that', () => {
    const property = fc.property(request, (asked) => {
      const once = bulkRequestSchema.parse(asked);
      expect(once).toEqual(asked);
      expect(bulkRequestSchema.parse(JSON.parse(JSON.stringify(once)))).toEqual(once);
    });
    fc.assert(property);
  });

  it('takes 5,000 rows and no more', () => {
    const rows = (n: number) => Array.from({ length: n }, () => ({ name: 'a', version: '1' }));
    expect(bulkRequestSchema.safeParse({ action: 'draft', rows: rows(5_000) }).success).toBe(true);
    expect(bulkRequestSchema.safeParse({ action: 'draft', rows: rows(5_001) }).success).toBe(false);
  });
});

describe('a new pool', () => {
  const pooled = {
    name: 'desks',
    imageVersionId: 'version-1',
    kind: 'pooled',
    clone: 'linked',
    pattern: 'WCL-#',
    start: 1,
    count: 3,
    ou: 'OU=Desks',
    places: [{ site: 'yard-a', network: 'desks', datastore: 'standard' }],
    size: 'desk-2',
    sessionLimit: 5,
  };
  const paths = (pool: object) =>
    newPoolSchema.safeParse(pool).error?.issues.map((issue) => issue.path.join('.')) ?? [];

  it('of either kind says what belongs to its kind, and nothing of the other', () => {
    const { sessionLimit: _limit, ...dedicated } = { ...pooled, kind: 'dedicated' };
    expect([paths(pooled), paths(dedicated)]).toEqual([[], []]);
    expect(paths({ ...dedicated, kind: 'pooled' })).toEqual(['sessionLimit']);
    expect(paths({ ...pooled, kind: 'streamed' })).toEqual(['kind']);
  });
});
