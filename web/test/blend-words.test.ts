/** What hosts need to hold a blend, as people read it. */
import { describe, expect, it } from 'vitest';
import {
  needInWords,
  needsInWords,
  runningInWords,
  waysInWords,
} from '../src/rollouts/blends/needs-in-words.ts';

describe('what hosts need', () => {
  it('is counted by kind, and nothing is said of what none needs', () => {
    expect(needsInWords({ rebuild: 88, attachOnly: 8, settingsOnly: 0 })).toBe('rebuild 88, attach 8');
    expect(needsInWords({ rebuild: 0, attachOnly: 0, settingsOnly: 3 })).toBe('settings on 3');
    expect(needsInWords({ rebuild: 0, attachOnly: 0, settingsOnly: 0 })).toBe('nothing to do');
  });
  it('says for how long, and whether people have to leave', () => {
    const work = { medianMinutes: 19, p90Minutes: 25, learnedFrom: 0 };
    expect(needInWords({ need: 'rebuild', work })).toBe(
      'A host is emptied and made anew: about 19 min each, 25 min or less in 9 of 10 cases, and people have to leave it.',
    );
    expect(needInWords({ need: 'attach only', work })).toMatch(
      /while people work on.*Nobody has to leave\.$/,
    );
    expect(needInWords({ need: 'settings only', work })).toMatch(/agent applies settings/);
    expect(needInWords({ need: 'nothing', work: null })).toBe('');
  });
  it('counts who runs it', () => {
    expect(runningInWords('desk', 0, 0, 1)).toBe('desk has no hosts yet.');
    expect(runningInWords('desk', 1, 1, 4)).toBe('The one host of desk runs blend 4.');
    expect(runningInWords('desk', 96, 96, 3)).toBe('All 96 hosts of desk run blend 3.');
    expect(runningInWords('desk', 96, 95, 3)).toBe('95 of 96 hosts of desk run blend 3; 1 runs another.');
  });
});

describe('the ways of a plan', () => {
  it('are said where people can stay', () => {
    expect(waysInWords({ rebuild: 8, attach: 0, 'attach in service': 0 })).toBe('');
    expect(waysInWords({ rebuild: 0, attach: 0, 'attach in service': 8 })).toMatch(/nobody has to leave/);
    expect(waysInWords({ rebuild: 2, attach: 1, 'attach in service': 5 })).toBe(
      '5 hosts only attach packages while people work on; 3 are taken out of service.',
    );
  });
});
