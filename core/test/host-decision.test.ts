import { describe, expect, it } from 'vitest';
import { decisionRefusal, hostDecisions, turnNumber } from '../src/rollout/host-decision.ts';
import { hostStages } from '../src/rollout/host-state.ts';

const open = { hasEnded: false, isStopped: false };
const allowed = (stage: (typeof hostStages)[number], more = {}) =>
  hostDecisions.filter((decision) => decisionRefusal(decision, { ...open, stage, ...more }) === undefined);

describe('what may be decided about a host', () => {
  it('is its turn while it waits, another try when it has failed, and nothing in between', () => {
    expect(allowed('waiting')).toEqual(['set aside', 'first', 'last']);
    expect(allowed('failed')).toEqual(['retry', 'set aside']);
    for (const stage of hostStages)
      if (stage !== 'waiting' && stage !== 'failed') expect(allowed(stage), stage).toEqual([]);
  });

  it('is no turn in a rollout that was stopped, and nothing starts in one that is over', () => {
    expect(allowed('waiting', { isStopped: true })).toEqual(['set aside']);
    expect(allowed('waiting', { hasEnded: true })).toEqual([]);
    // It is given up for good; to try it again there is no rollout any more.
    expect(allowed('failed', { hasEnded: true })).toEqual(['set aside']);
  });

  it('puts it before or behind all others that wait', () => {
    expect(turnNumber('first', [4, 9])).toBe(3);
    expect(turnNumber('last', [4, 9])).toBe(10);
    expect(turnNumber('first', [0, 5])).toBe(-1);
    expect(turnNumber('last', [])).toBe(0);
  });
});
