/** Tries days of a pool out, away from the thread that draws the screen. */
import { expose } from 'comlink';
import type { ReadinessRules } from '@vatline/core/pool/readiness';
import { simulateDays, type DayInput, type DaysOutcome } from '@vatline/core/pool/simulated-day';

export interface DayQuestion {
  readonly input: DayInput;
  readonly rules: ReadinessRules;
  /** What `rules` are held against. */
  readonly recommended: ReadinessRules;
}

export interface DayAnswer {
  readonly chosen: DaysOutcome;
  readonly recommended: DaysOutcome;
}

/** So many days, each with other people: enough to tell one waiting person of a thousand. */
const DAYS = 20;

const worker = {
  tryOut({ input, rules, recommended }: DayQuestion): DayAnswer {
    return {
      chosen: simulateDays(input, rules, DAYS, 'day'),
      recommended: simulateDays(input, recommended, DAYS, 'day'),
    };
  },
};

export type DayWorker = typeof worker;
expose(worker);
