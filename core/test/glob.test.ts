import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compileExpression } from '../src/package/expression.ts';
import { compileGlob, MatchedPath } from '../src/package/glob.ts';
import { must } from '../src/result.ts';

const matches = (glob: string, path: string) => must(compileGlob(glob))(new MatchedPath(path));

describe('globs', () => {
  it.each([
    ['*.log', 'a.log', true],
    ['*.log', 'b/a.log', false],
    ['**/*.log', 'a.log', true],
    ['**/*.log', 'b/c/a.LOG', true],
    ['Users/*/Temp/**', 'users/ann/temp', true],
    ['Users/*/Temp/**', 'users/ann/temp/x/y', true],
    ['Users/*/Temp/**', 'users/ann/b/temp/x', false],
    ['a/**/b', 'a/b', true],
    ['a/**/b', 'a/x/y/b', true],
    ['a/**/b', 'a/x/y', false],
    ['**', 'anything/at/all', true],
    ['a?c', 'abc', true],
    ['a?c', 'a/c', false],
    ['[a-c]1', 'b1', true],
    ['[!a-c]1', 'b1', false],
    ['[]]x', ']x', true],
    ['{one,two}/{x,y}', 'two/x', true],
    ['{one,two}/{x,y}', 'two/z', false],
    ['{**/,}{temp,tmp}{,/**}', 'deep/tmp/a', true],
    ['{**/,}{temp,tmp}{,/**}', 'tmp', true],
    ['{**/,}{temp,tmp}{,/**}', 'tmpx', false],
    ['a\\*b', 'a*b', true],
    ['a\\*b', 'axb', false],
    ['$recycle.bin', '$recycle.bin', true],
  ])('%s on %s: %s', (glob, path, holds) => expect(matches(glob, path)).toBe(holds));

  it.each([
    ['{a,b', 'has a brace that is not closed'],
    ['[ab', 'has a bracket that is not closed'],
    ['{a,b}'.repeat(7), 'stands for more than 64 globs by its braces'],
    ['x'.repeat(1001), 'is longer than 1000 letters'],
  ])('%s is refused', (glob, why) => {
    const answer = compileGlob(glob);
    expect(answer.ok ? '' : answer.error[0]?.message).toBe(why);
  });

  it('agree with the plain definition on everything small', () => {
    const slow = (glob: string, path: string): boolean => {
      if (glob === '') return path === '';
      if (glob.startsWith('*'))
        return slow(glob.slice(1), path) || (path !== '' && path[0] !== '/' && slow(glob, path.slice(1)));
      return (
        path !== '' &&
        (glob[0] === '?' ? path[0] !== '/' : glob[0] === path[0]) &&
        slow(glob.slice(1), path.slice(1))
      );
    };
    const text = (chars: string) => fc.string({ unit: fc.constantFrom(...chars), maxLength: 8 });
    fc.assert(
      fc.property(text('ab*?/'), text('ab/'), (raw, path) => {
        // Two stars side by side mean another thing where they are a part of their own.
        const glob = raw.replace(/\*+/g, '*');
        expect(matches(glob, path)).toBe(slow(glob, path));
      }),
      { numRuns: 3_000, seed: 8 },
    );
  });

  it('B8: however a glob or an expression is written, it takes no longer than its length times the text', () => {
    const begun = performance.now();
    expect(matches('*a'.repeat(400) + 'b', 'a'.repeat(4_000))).toBe(false);
    expect(matches('**/a/'.repeat(150) + 'b', 'a/'.repeat(2_000) + 'c')).toBe(false);
    expect(must(compileExpression('(x+x+)+y'))('x'.repeat(4_000))).toBe(false);
    expect(must(compileExpression('(a|aa)+$'))('a'.repeat(4_000) + 'b')).toBe(false);
    expect(performance.now() - begun).toBeLessThan(2_000);
  });

  it('what needs looking back is no expression here, and says so', () => {
    for (const expression of ['(a)\\1', '(?=a)b', '(?<!a)b']) {
      const answer = compileExpression(expression);
      expect(answer.ok ? '' : answer.error[0]?.message).toMatch(/^is no regular expression: /);
    }
  });
});
