import { describe, expect, it } from 'vitest';
import { ruleInWords } from '../src/time/rule-in-words.ts';

describe('a rule in words', () => {
  it.each([
    ['FREQ=DAILY', 'every day'],
    ['FREQ=DAILY;INTERVAL=3', 'every 3 days'],
    ['FREQ=WEEKLY;BYDAY=SU', 'on Sunday'],
    ['FREQ=WEEKLY;BYDAY=FR,TU', 'on Tuesday and Friday'],
    ['FREQ=WEEKLY;BYDAY=SU,SA,WE', 'on Wednesday, Saturday and Sunday'],
    ['FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR', 'Monday to Friday'],
    ['FREQ=WEEKLY;INTERVAL=2;BYDAY=SU;COUNT=6', 'every 2 weeks on Sunday, 6 times'],
    ['FREQ=DAILY;COUNT=1', 'every day, once'],
  ])('%s is %s', (rule, words) => expect(ruleInWords(rule)).toBe(words));

  it.each([
    'FREQ=MONTHLY;BYDAY=1SU',
    'FREQ=WEEKLY',
    'FREQ=WEEKLY;BYDAY=SU;UNTIL=20271231',
    'FREQ=MONTHLY;BYDAY=MO;BYSETPOS=1',
    'not a rule',
  ])('%s stays as it is written', (rule) => expect(ruleInWords(rule)).toBe(rule));
});
