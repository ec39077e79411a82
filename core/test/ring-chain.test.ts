/** Rings as the forecast takes them, before they begin and on the way: by hand. */
import { describe, expect, it } from 'vitest';
import { forecast } from '../src/rollout/forecast/forecast.ts';
import type { RingPlan } from '../src/rollout/forecast/plan.ts';
import { must } from '../src/result.ts';
import { chainOf, restOfChain, type RingUnderWay } from '../src/rollout/rings/chain.ts';
import type { GateRules, RingStanding } from '../src/rollout/rings/gate.ts';
import { formatInstant, parseInstant } from '../src/time/instant.ts';

const at = (text: string) => parseInstant(text) as number;
const from = at('2027-03-22T08:00:00Z');
const rules: GateRules = { finishedShare: 1, soakHours: 0, needsApproval: false, watchesSignIns: false };
const ring = (name: string, count: number, batch: number): RingPlan => ({
  name,
  window: { rule: 'FREQ=DAILY', start: '01:00', end: '05:00', zone: 'Europe/Dublin' },
  hosts: Array.from({ length: count }, (_, i) => `${name}${i}`),
  batch,
  maxUnavailable: batch,
  work: { medianMinutes: 30, p90Minutes: 30 },
  drain: { limitMinutes: 0 },
  failure: { rate: 0, retries: 0 },
});
const when = (rings: readonly RingPlan[], resumeAt?: number) =>
  must(forecast({ from, ...(resumeAt !== undefined && { resumeAt }), rings, runs: 1, seed: 1 })).rings.map(
    ({ name, opens, finish }) =>
      `${name}: ${[opens.p50, finish.p50].map((one) => (one === null ? 'never' : formatInstant(one).slice(8, 16))).join(' to ')}`,
  );

describe('a chain before it begins', () => {
  it('waits for soak and approval behind each ring', () => {
    const chain = chainOf(
      [
        { plan: ring('pilot', 6, 3), rules: { ...rules, soakHours: 24, needsApproval: true } },
        { plan: ring('rest', 8, 4), rules },
      ],
      from,
    );
    // 02:00 on the 23rd, a day, four hours: 06:00 is past the window of the 24th.
    expect(when(chain)).toEqual(['pilot: 22T08:00 to 23T02:00', 'rest: 24T06:00 to 25T02:00']);
  });

  it('leaves a ring out that changes nothing, but not what has to be approved behind it', () => {
    const empty = { plan: ring('same', 0, 1), rules: { ...rules, soakHours: 48, needsApproval: true } };
    const [pilot, rest] = [
      { plan: ring('pilot', 6, 3), rules },
      { plan: ring('rest', 8, 4), rules },
    ];
    expect(when(chainOf([pilot, empty, rest], from))).toEqual([
      'pilot: 22T08:00 to 23T02:00',
      'rest: 23T06:00 to 24T02:00',
    ]);
    expect(when(chainOf([empty, pilot], from))).toEqual(['pilot: 22T12:00 to 23T02:00']);
    expect(chainOf([empty], from)).toEqual([]);
  });
});

describe('what is left of a chain', () => {
  const now = at('2027-03-23T01:30:00Z');
  const standing: RingStanding = {
    name: '',
    state: 'started',
    hosts: 6,
    done: 3,
    setAside: 0,
    hasEnded: false,
    isStopped: false,
    isPaused: false,
    failing: null,
    reachedAt: null,
    decision: null,
    slower: null,
    unjudged: null,
    nextIsSamePool: false,
    nextHasBegun: false,
  };
  const waiting = { ...standing, state: 'waiting' as const, done: 0 };
  const pilot = (change: Partial<RingStanding> = {}, gate: Partial<GateRules> = {}): RingUnderWay => {
    const stands = { ...standing, ...change };
    return {
      plan: ring('pilot', 6, 3),
      rules: { ...rules, ...gate },
      standing: stands,
      left: stands.hosts - stands.done,
    };
  };
  const rest: RingUnderWay = { plan: ring('rest', 8, 4), rules, standing: { ...waiting, hosts: 8 }, left: 8 };
  const left = (rings: readonly RingUnderWay[], seen = now) =>
    when(
      restOfChain(rings, seen, from).flatMap((one) => one ?? []),
      seen,
    );

  it('counts the hosts of the gate that are done already', () => {
    expect(left([pilot(), rest])).toEqual(['pilot: 23T01:30 to 23T02:00', 'rest: 23T02:00 to 23T03:00']);
    // Five of six are needed, three are done: the next wave brings them.
    expect(left([pilot({}, { finishedShare: 0.8, soakHours: 1 }), rest])[1]).toBe(
      'rest: 23T03:00 to 23T04:00',
    );
  });

  it('waits for what is left of a soak, and for somebody who has not approved', () => {
    const reachedAt = at('2027-03-23T01:00:00Z');
    const ended = { hasEnded: true, done: 6, reachedAt };
    expect(left([pilot(ended, { soakHours: 1 }), rest])).toEqual(['rest: 23T02:00 to 23T03:00']);
    const asks = { soakHours: 1, needsApproval: true };
    expect(left([pilot(ended, asks), rest])).toEqual(['rest: 23T06:00 to 24T02:00']);
    const approved = { ...ended, decision: { what: 'approve', why: '' } as const };
    expect(left([pilot(approved, asks), rest])).toEqual(['rest: 23T02:00 to 23T03:00']);
    const anyway = { ...ended, decision: { what: 'open anyway', why: '' } as const };
    expect(left([pilot(anyway, asks), rest])).toEqual(['rest: 23T01:30 to 23T02:30']);
  });

  it('of one pool the next waits for the end of the one before', () => {
    const reached = { reachedAt: at('2027-03-23T01:15:00Z'), nextIsSamePool: true };
    const pooled = [pilot(reached, { finishedShare: 0.5 }), rest].map((one) => ({
      ...one,
      plan: one.plan && { ...one.plan, pool: 'desks' },
    }));
    expect(left(pooled)).toEqual(['pilot: 23T01:30 to 23T02:00', 'rest: 23T02:00 to 23T03:00']);
  });

  it('does not begin before it may', () => {
    const first = { ...rest, plan: ring('first', 8, 4) };
    expect(
      when(
        restOfChain([first], now, at('2027-03-23T03:00:00Z')).flatMap((one) => one ?? []),
        now,
      ),
    ).toEqual(['first: 23T03:00 to 23T04:00']);
  });
});
