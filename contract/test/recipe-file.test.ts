import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { stepKinds, type Step } from '@vatline/core/image/recipe';
import { everyKind } from './every-kind.ts';
import { readRecipeFile, writeRecipeFile } from '../src/recipe-file.ts';
import { stepSchema } from '../src/recipe.ts';

const read = (text: string) => {
  const result = readRecipeFile(text);
  return result.ok ? [] : result.error.map((f) => `${f.line}:${f.column} ${f.path} ${f.message}`);
};
const system = `recipe: 1
steps:
  - id: system
    kind: operating system
    system: Desktop OS 24.2
    edition: multi-session
    mediaDigest: ${'ab'.repeat(32)}
`;

describe('the recipe file', () => {
  it('holds a step of every kind, and gives the same steps back', () => {
    expect(everyKind.map((step) => step.kind)).toEqual(stepKinds);
    expect(readRecipeFile(writeRecipeFile(everyKind))).toEqual({ ok: true, value: everyKind });
  });

  it('writes what it read as the same text', () => {
    const text = writeRecipeFile(everyKind);
    const again = readRecipeFile(text);
    expect(again.ok && writeRecipeFile(again.value)).toBe(text);
  });

  it('keeps a script line by line', () => {
    const [first] = everyKind;
    const script: Step = { id: 's', kind: 'script', title: 'Two lines', text: 'one\ntwo\n' };
    expect(writeRecipeFile([first as Step, script])).toContain('text: |\n      one\n      two\n');
  });

  it('keeps any text in any field', () => {
    const text = fc.string({ unit: 'binary', minLength: 1 }).filter((s) => s.isWellFormed());
    fc.assert(
      fc.property(text, text, (script, value) => {
        const steps: Step[] = [
          everyKind[0] as Step,
          { id: 's', kind: 'script', title: 'x', text: script },
          { id: 'r', kind: 'registry setting', key: 'K', name: 'n', type: 'REG_SZ', value },
        ];
        expect(readRecipeFile(writeRecipeFile(steps))).toEqual({ ok: true, value: steps });
      }),
      { numRuns: 300 },
    );
  });

  it.each([
    ['no YAML', `${system}  - id: [`, /^8:10 {2}Flow sequence/],
    [
      'a tab for indentation',
      'recipe: 1\nsteps:\n\t- id: x\n',
      /^3:1 {2}Tabs are not allowed as indentation$/,
    ],
    ['a key twice', `recipe: 1\nrecipe: 1\n${system.slice(10)}`, /^2:1 {2}Map keys must be unique$/],
    ['another version', system.replace('recipe: 1', 'recipe: 2'), /^1:1 recipe must be 1/],
    [
      'an unknown kind',
      system.replace('operating system', 'dance'),
      /^4:5 steps\.0\.kind is not a kind of step; known are operating system, updates/,
    ],
    ['an unknown field', `${system}    colour: red\n`, /^8:5 steps\.0\.colour is not a field/],
    [
      'a missing field',
      `${system}  - id: a\n    kind: host agent\n`,
      /^8:5 steps\.1\.version has no version$/,
    ],
    [
      'a wrong value',
      `${system}  - id: u\n    kind: updates\n    release: March\n`,
      /^10:5 steps\.1\.release must be a release such as 2027-03$/,
    ],
    [
      'an id twice',
      `${system}  - id: system\n    kind: restart\n`,
      /^8:5 steps\.1\.id "system" is used by two steps$/,
    ],
    [
      'an order that cannot be',
      system.replace(/- id: system[\s\S]*/, '- id: r\n    kind: restart\n'),
      /^4:5 steps\.0\.kind The first step must install/,
    ],
    ['no recipe', 'hello', /^1:1 {2}/],
    ['nothing', '', /^1:1 {2}/],
    ['too much', `# ${'x'.repeat(2_000_001)}`, /^1:1 {2}is longer than 2 MB$/],
  ])('%s is answered with line and column', (_what, text, expected) => {
    expect(read(text)[0]).toMatch(expected);
  });

  it('refuses a text that repeats itself without end', () => {
    const levels = Array.from({ length: 12 }, (_, i) =>
      i === 0
        ? 'a0: &a0 [x, x, x, x, x, x, x, x, x]'
        : `a${i}: &a${i} [${Array(9)
            .fill(`*a${i - 1}`)
            .join(', ')}]`,
    );
    expect(read(levels.join('\n'))[0]).toBe('1:1  repeats itself by aliases too often');
  });

  it('names every fault at once', () => {
    const text = `${system}  - id: a\n    kind: host agent\n  - id: u\n    kind: updates\n    release: x\n`;
    expect(read(text)).toHaveLength(2);
  });
});

describe('the schema of a step', () => {
  it.each(everyKind.map((step) => [step.kind, step] as const))('takes a %s step as it is', (_kind, step) => {
    expect(stepSchema.parse(step)).toEqual(step);
  });
});
