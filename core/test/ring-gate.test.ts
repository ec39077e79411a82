/** The gate between two rings, and who decides at it: each situation by hand. */
import { describe, expect, it } from 'vitest';
import { mayBegin, mayDecide } from '../src/rollout/rings/approval.ts';
import {
  gateVerdict,
  hostsNeeded,
  type GateRules,
  type RingStanding,
  type Verdict,
} from '../src/rollout/rings/gate.ts';

const HOUR = 3_600_000;
const rules: GateRules = { finishedShare: 1, soakHours: 0, needsApproval: false, watchesSignIns: false };
const through: RingStanding = {
  name: 'pilot',
  state: 'started',
  hosts: 10,
  done: 10,
  setAside: 0,
  hasEnded: true,
  isStopped: false,
  isPaused: false,
  failing: null,
  reachedAt: 100 * HOUR,
  decision: null,
  slower: null,
  unjudged: null,
  nextIsSamePool: false,
  nextHasBegun: false,
};
const underWay = { ...through, done: 4, hasEnded: false, reachedAt: null };
const said = (verdict: Verdict) => {
  const until = verdict.do === 'wait' && verdict.until !== null ? ` until hour ${verdict.until / HOUR}` : '';
  return `${verdict.do}${verdict.why === '' ? '' : `: ${verdict.why}`}${until}`;
};

describe('a gate', () => {
  it.each<[string, Partial<RingStanding>, Partial<GateRules>, string]>([
    ['all are done', {}, {}, 'open'],
    ['it had nothing to do', { state: 'done', hosts: 0, done: 0 }, {}, 'open'],
    ['it had nothing to do, whatever the soak', { state: 'done', hosts: 0 }, { soakHours: 24 }, 'open'],
    ['it has not begun', { ...underWay, state: 'waiting', done: 0 }, {}, 'wait: pilot has not begun'],
    ['it is at work', underWay, {}, 'wait: 4 of 10 hosts of pilot are done, 10 are needed'],
    ['it is paused', { ...underWay, isPaused: true }, {}, 'wait: pilot is paused'],
    [
      'its failure rule paused it',
      { ...underWay, isPaused: true, failing: '3 hosts failed; it stops at 3' },
      {},
      'hold: pilot: 3 hosts failed; it stops at 3',
    ],
    ['a part is enough', { ...underWay, done: 9, reachedAt: 90 * HOUR }, { finishedShare: 0.9 }, 'open'],
    [
      'a part is enough, but the next is of the same pool',
      { ...underWay, done: 9, reachedAt: 90 * HOUR, nextIsSamePool: true },
      { finishedShare: 0.9 },
      'wait: pilot is not ended',
    ],
    ['it soaks', { reachedAt: 90 * HOUR }, { soakHours: 24 }, 'wait: pilot soaks until hour 114'],
    ['it has soaked to the hour', { reachedAt: 76 * HOUR }, { soakHours: 24 }, 'open'],
    [
      'too few have signed in to judge',
      { unjudged: '3 sign-ins so far' },
      { needsApproval: true },
      'wait: pilot: 3 sign-ins so far',
    ],
    ['nobody has approved', {}, { needsApproval: true }, 'wait: pilot waits for an approval'],
    [
      'it was approved while it soaks',
      { reachedAt: 90 * HOUR, decision: { what: 'approve', why: '' } },
      { soakHours: 24, needsApproval: true },
      'wait: pilot soaks until hour 114',
    ],
    ['it was approved', { decision: { what: 'approve', why: '' } }, { needsApproval: true }, 'open'],
    ['it was refused', { decision: { what: 'refuse', why: 'slow' } }, {}, 'hold: refused: slow'],
    ['it was stopped', { ...underWay, hasEnded: true, isStopped: true }, {}, 'hold: pilot was stopped'],
    ['it was dropped', { ...underWay, state: 'dropped' }, {}, 'hold: pilot was dropped'],
    [
      'too few came through',
      { done: 8, setAside: 2, reachedAt: null },
      { finishedShare: 0.9 },
      'hold: 8 of 10 hosts of pilot are done, 9 are needed; 2 set aside',
    ],
    ['few enough did not', { done: 9, setAside: 1, reachedAt: 90 * HOUR }, { finishedShare: 0.9 }, 'open'],
    ['the next ring has begun', { slower: 'slower by 20 %', nextHasBegun: true }, {}, 'open'],
    ['sign-ins are slower', { slower: 'slower by 20 %' }, {}, 'hold: pilot: slower by 20 %'],
    [
      'sign-ins are slower while it soaks: nobody waits for the end of it',
      { slower: 'slower by 20 %', reachedAt: 90 * HOUR },
      { soakHours: 24 },
      'hold: pilot: slower by 20 %',
    ],
    [
      'it was opened anyway',
      { slower: 'slower by 20 %', decision: { what: 'open anyway', why: 'known' } },
      { soakHours: 24, needsApproval: true },
      'open: opened anyway: known',
    ],
    [
      'it is to be opened anyway, but has not begun',
      { ...underWay, state: 'waiting', done: 0, decision: { what: 'open anyway', why: 'known' } },
      {},
      'wait: pilot has not begun',
    ],
    [
      'it was opened anyway, but the pool is busy',
      { ...underWay, nextIsSamePool: true, decision: { what: 'open anyway', why: 'known' } },
      {},
      'wait: pilot is not ended',
    ],
  ])('when %s', (_what, change, ruled, verdict) => {
    expect(said(gateVerdict({ ...through, ...change }, { ...rules, ...ruled }, 100 * HOUR))).toBe(verdict);
  });

  it('needs whole hosts', () => {
    expect([hostsNeeded(10, 0.1), hostsNeeded(11, 0.1), hostsNeeded(10, 0.3), hostsNeeded(7, 1)]).toEqual([
      1, 2, 3, 7,
    ]);
  });
});

describe('a decision at a gate', () => {
  const waiting = { do: 'wait', for: 'approval', why: '', until: null } as const;
  const why = (...asked: Parameters<typeof mayDecide>) => {
    const answer = mayDecide(...asked);
    return answer.ok ? 'may' : answer.error[0]?.message;
  };

  it('is an approver’s, who did not make the rollout', () => {
    expect(why('approve', { role: 'approver', maker: 'engineer', verdict: waiting })).toBe('may');
    expect(why('approve', { role: 'approver', maker: null, verdict: waiting })).toBe('may');
    expect(why('approve', { role: 'engineer', maker: 'operator', verdict: waiting })).toBe(
      'an approver decides; you act as engineer',
    );
    expect(why('approve', { role: 'approver', maker: 'approver', verdict: waiting })).toBe(
      'this rollout was begun as approver; somebody else than its maker decides',
    );
  });

  it('opens a held gate only in so many words', () => {
    const verdict = { do: 'hold', why: '2 set aside' } as const;
    expect(why('approve', { role: 'approver', maker: 'engineer', verdict })).toBe(
      'the gate is held: 2 set aside; open it anyway, or stop the rollout',
    );
    expect(why('open anyway', { role: 'approver', maker: 'engineer', verdict })).toBe('may');
    expect(why('refuse', { role: 'approver', maker: null, verdict: { do: 'open', why: '' } })).toBe(
      'the gate is open already',
    );
  });

  it('is needed by nobody who could not get it', () => {
    const asks = { ...rules, needsApproval: true };
    expect(mayBegin('engineer', [asks, rules]).ok).toBe(true);
    const refused = mayBegin('approver', [rules, asks, rules]);
    expect(!refused.ok && refused.error[0]?.path).toBe('rings.1.gate.needsApproval');
    // Behind the last ring there is nothing to open.
    expect(mayBegin('approver', [rules, asks]).ok).toBe(true);
  });
});
