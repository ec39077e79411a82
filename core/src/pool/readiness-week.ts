/** What rules come to over a week: hosts on and at rest in each hour, and what that costs against leaving all on. */
import { HOURS_A_MONTH } from './assumptions.ts';
import { sessionsAt } from './session-curve.ts';
import {
  hostsNeeded,
  sparesAt,
  leadAt,
  type LeadKind,
  type ReadinessFacts,
  type ReadinessRules,
  type RestMode,
} from './readiness.ts';

export interface HostPrices {
  /** Money for an hour in which a host is on. */
  readonly perHour: number;
  /** Money for an hour in which a host is suspended: its memory lies on a datastore. */
  readonly suspendedPerHour: number;
}

export interface PlannedHour {
  readonly day: number;
  readonly hour: number;
  readonly mode: RestMode;
  /** The most sessions expected in it. */
  readonly expected: number;
  readonly spares: number;
  readonly lead: LeadKind;
  /** The most hosts that are to be ready in it. */
  readonly needed: number;
  readonly on: number;
  readonly resting: number;
}

export interface WeekPlan {
  /** 168 of them, from Monday 00:00. */
  readonly hours: readonly PlannedHour[];
  /** Hours that hosts are on in a week. */
  readonly onHours: number;
  readonly allOnHours: number;
  readonly costPerMonth: number;
  readonly allOnPerMonth: number;
}

/** Minutes of an hour at which its need is looked at: a curve is straight in between. */
const looks = [0, 15, 30, 45, 59];

export function planWeek(facts: ReadinessFacts, rules: ReadinessRules, prices: HostPrices): WeekPlan {
  const hours = Array.from({ length: 168 }, (_, i) => planHour(facts, rules, Math.floor(i / 24), i % 24));
  const onHours = hours.reduce((sum, hour) => sum + hour.on, 0);
  const suspended = hours.reduce((sum, hour) => sum + (hour.mode === 'suspended' ? hour.resting : 0), 0);
  const aMonth = (ofWeek: number) => (ofWeek * HOURS_A_MONTH) / 168;
  return {
    hours,
    onHours,
    allOnHours: facts.hosts * 168,
    costPerMonth: aMonth(onHours * prices.perHour + suspended * prices.suspendedPerHour),
    allOnPerMonth: aMonth(facts.hosts * 168 * prices.perHour),
  };
}

function planHour(facts: ReadinessFacts, rules: ReadinessRules, day: number, hour: number): PlannedHour {
  const expectedAt = (minute: number) => sessionsAt(facts.expected, hour * 60 + minute);
  const needed = Math.max(
    ...looks.map((minute) => hostsNeeded(facts, rules, { day, minute: hour * 60 + minute, sessions: 0 })),
  );
  const mode = rules.week[day]?.[hour] ?? 'on';
  const on = mode === 'on' ? Math.max(needed, facts.hosts) : needed;
  return {
    day,
    hour,
    mode,
    expected: Math.max(...looks.map(expectedAt)),
    spares: sparesAt(facts, rules, day, hour),
    lead: leadAt(facts, rules, day, hour),
    needed,
    on,
    resting: Math.max(0, facts.hosts - on),
  };
}
