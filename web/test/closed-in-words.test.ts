import { describe, expect, it } from 'vitest';
import { closedInWords } from '../src/rollouts/closed-in-words.ts';

describe('closed days in words', () => {
  it.each([
    [['2027-03-29', '2027-03-26'], 'no window begins on 26 Mar, 29 Mar'],
    [['2027-03-26', '2027-03-26'], 'no window begins on 26 Mar'],
    [
      ['2027-12-25', '2027-03-26', '2027-03-29', '2027-05-03', '2027-06-07'],
      'no window begins on 26 Mar, 29 Mar, 3 May, 7 Jun and later days',
    ],
    [[], 'no whole day is closed from now on'],
  ])('%j: %s', (dates, words) => expect(closedInWords(dates)).toBe(words));
});
