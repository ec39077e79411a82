/** Changing a rollout that is under way: whether it may be, and what a change says. */

import { failureRuleInWords, type FailureRule } from './failure-rule.ts';
import type { Notice } from './notice.ts';
import { ruleInWords } from '../time/rule-in-words.ts';

/** What of a plan may be changed while it runs; what hosts are to run may not. */
export interface RunningPlan {
  readonly window: { readonly rule: string; readonly start: string; readonly end: string };
  readonly calendarIds: readonly string[];
  readonly batch: number;
  readonly maxUnavailable: number;
  readonly drainLimitMinutes: number;
  /** Seats kept above the expected sessions, as a fraction; null keeps none. */
  readonly reserve: number | null;
  /** When it is paused by itself. */
  readonly stop: FailureRule | null;
  /** What people are told. */
  readonly notice: Notice | null;
}

export interface RunningRollout {
  readonly hasEnded: boolean;
  readonly isStopped: boolean;
  readonly isPaused: boolean;
}

export type UnderWay = 'change' | 'pause' | 'go on';

/** Why that cannot be done to a rollout as it stands; undefined where it can. The screen and the engine ask here. */
export function underWayRefusal(
  { hasEnded, isStopped, isPaused }: RunningRollout,
  what: UnderWay,
): string | undefined {
  if (hasEnded) return 'This rollout has ended already';
  if (isStopped) return 'This rollout was stopped; only its hosts at work are finished';
  if (what === 'pause' && isPaused) return 'This rollout is paused already';
  if (what === 'go on' && !isPaused) return 'This rollout is not paused';
  return undefined;
}

/** What a change says, a line for each thing; empty where nothing is changed. */
export function planChanges(before: RunningPlan, after: RunningPlan): string[] {
  const is = planFacts(after);
  const said = planFacts(before).flatMap(([what, was], i) => {
    const now = is[i]?.[1] ?? '';
    return was === now ? [] : [`${what} ${was} → ${now}`];
  });
  if (before.notice && after.notice && before.notice.text !== after.notice.text)
    said.push('another text for people');
  const calendars = ({ calendarIds }: RunningPlan) => [...calendarIds].sort().join(' ');
  if (calendars(before) !== calendars(after)) said.push('other calendars of closed days');
  return said;
}

/** What a plan says, each with its name; always the same in the same order. */
export function planFacts(plan: RunningPlan): readonly (readonly [what: string, is: string])[] {
  return [
    ['hosts at a time', String(plan.batch)],
    ['at most out of service', String(plan.maxUnavailable)],
    ['window', span(plan)],
    ['nights', ruleInWords(plan.window.rule)],
    ['wait for sessions', `${plan.drainLimitMinutes} min`],
    ['seats kept', kept(plan)],
    ['paused by itself', ruleSaid(plan)],
    ['people are told', told(plan)],
  ];
}

const told = ({ notice }: RunningPlan) => {
  if (!notice) return 'nothing';
  return `as hosts drain${notice.minutesBefore > 0 ? `, and ${notice.minutesBefore} min before` : ''}`;
};
const ruleSaid = ({ stop }: RunningPlan) => (stop ? failureRuleInWords(stop) : 'never');
const span = ({ window }: RunningPlan) => `${window.start} to ${window.end}`;
const kept = ({ reserve }: RunningPlan) => (reserve === null ? 'none' : `${Math.round(reserve * 100)} %`);
