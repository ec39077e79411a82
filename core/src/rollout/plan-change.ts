/** Changing a rollout that is under way: whether it may be, and what a change says. */

import { failureRuleInWords, type FailureRule } from './failure-rule.ts';
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
  const said: string[] = [];
  const say = (what: string, a: string, b: string) => {
    if (a !== b) said.push(`${what} ${a} → ${b}`);
  };
  say('hosts at a time', String(before.batch), String(after.batch));
  say('at most out of service', String(before.maxUnavailable), String(after.maxUnavailable));
  say('window', span(before), span(after));
  say('nights', ruleInWords(before.window.rule), ruleInWords(after.window.rule));
  say('wait for sessions', `${before.drainLimitMinutes} min`, `${after.drainLimitMinutes} min`);
  say('seats kept', kept(before), kept(after));
  say('paused by itself', ruleSaid(before), ruleSaid(after));
  const calendars = ({ calendarIds }: RunningPlan) => [...calendarIds].sort().join(' ');
  if (calendars(before) !== calendars(after)) said.push('other calendars of closed days');
  return said;
}

const ruleSaid = ({ stop }: RunningPlan) => (stop ? failureRuleInWords(stop) : 'never');
const span = ({ window }: RunningPlan) => `${window.start} to ${window.end}`;
const kept = ({ reserve }: RunningPlan) => (reserve === null ? 'none' : `${Math.round(reserve * 100)} %`);
