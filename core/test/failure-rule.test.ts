import { describe, expect, it } from 'vitest';
import { failureRuleInWords, stopsFor, type FailureRule } from '../src/rollout/failure-rule.ts';

const rule = (change: Partial<FailureRule>): FailureRule => ({
  failures: null,
  share: null,
  after: 0,
  ...change,
});

describe('a failure rule', () => {
  it.each<[string, number, number, FailureRule, string | undefined]>([
    ['below its number', 50, 2, rule({ failures: 3 }), undefined],
    ['at its number', 0, 3, rule({ failures: 3 }), '3 hosts failed; it stops at 3'],
    ['at a number of one', 9, 1, rule({ failures: 1 }), '1 host failed; it stops at 1'],
    ['before enough are through', 3, 6, rule({ share: 0.1, after: 10 }), undefined],
    ['at its share', 9, 1, rule({ share: 0.1, after: 10 }), undefined],
    ['above its share', 8, 2, rule({ share: 0.1, after: 10 }), '2 of 10 hosts failed; it stops above 10 %'],
    ['with nobody through', 0, 0, rule({ share: 0 }), undefined],
    ['by whichever comes first', 96, 4, rule({ failures: 4, share: 0.5 }), '4 hosts failed; it stops at 4'],
  ])('%s', (_what, done, failed, given, why) => {
    expect(stopsFor({ done, failed }, given)).toBe(why);
  });

  it('is said in words', () => {
    expect(failureRuleInWords(rule({ failures: 1 }))).toBe('at 1 failure');
    expect(failureRuleInWords(rule({ failures: 3, share: 0.1, after: 20 }))).toBe(
      'at 3 failures, or above 10 % once 20 are through',
    );
    expect(failureRuleInWords(rule({}))).toBe('never');
  });
});
