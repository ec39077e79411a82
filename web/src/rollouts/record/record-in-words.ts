/** The record of a rollout in sentences: what it was to do, when it was promised and came, what failed. */
import type { RolloutRecord } from '@vatline/contract/rollout-record';
import type { Plan } from '@vatline/contract/rollout';
import { ruleInWords } from '@vatline/core/time/rule-in-words';
import { capital, minutes, moment, percent, plural } from '../../parts/format.ts';

export function planInWords(plan: Plan): string {
  const { window, zone, batch, maxUnavailable, drainLimitMinutes, reserve, stop, notice } = plan;
  const parts = [
    `${capital(ruleInWords(window.rule))}, ${window.start} to ${window.end}, ${zone}`,
    `${batch} hosts at a time, at most ${maxUnavailable} out of service`,
    `at most ${drainLimitMinutes} min for sessions to end`,
    reserve === null ? 'no seats kept' : `seats kept ${percent(reserve)} above those expected`,
    stop?.failures ? `paused at ${plural(stop.failures, 'failed host')}` : '',
    stop?.share ? `paused when over ${percent(stop.share)} fail` : '',
    notice
      ? `people told as hosts drain${notice.minutesBefore > 0 ? ` and ${notice.minutesBefore} min before` : ''}: “${notice.text}”`
      : '',
  ];
  return `${parts.filter(Boolean).join('; ')}.`;
}

/** `Promised between … and … (8 in 10), ended …: 23 min before the late end.` */
export function promiseInWords({ rollout, promised }: RolloutRecord, zone: string): string {
  const { p10, p90 } = promised;
  const { endedAt } = rollout;
  const said =
    p90 === null
      ? 'No end could be promised at its start'
      : p10 === null
        ? `Promised by ${moment(p90, zone)}, 9 in 10`
        : `Promised between ${moment(p10, zone)} and ${moment(p90, zone)}, 8 in 10`;
  if (endedAt === null) return `${said}; it is not over.`;
  if (p90 === null) return `${said}; it ended ${moment(endedAt, zone)}.`;
  const apart = minutes(Math.abs(endedAt - p90) / 60_000);
  const side = endedAt <= p90 ? 'before' : 'after';
  return `${said}; ended ${moment(endedAt, zone)}, ${apart} ${side} the late end.`;
}

export function figuresInWords({ figures, rollout }: RolloutRecord): string {
  const { done, setAside, untouched, triedAgain, medianMinutes, slowest } = figures;
  const ofDone = [
    `${done} of ${plural(rollout.hosts, 'host')} done`,
    medianMinutes === null ? '' : `half of them within ${minutes(medianMinutes)}`,
    slowest === null ? '' : `the slowest, ${slowest.name}, in ${minutes(slowest.minutes)}`,
    triedAgain > 0 ? `${triedAgain} not at the first attempt` : '',
  ];
  const others = [
    setAside > 0 ? `${setAside} set aside` : '',
    untouched > 0 ? `${untouched} ${rollout.endedAt === null ? 'not begun yet' : 'never begun'}` : '',
  ];
  return `${[ofDone, others]
    .map((parts) => parts.filter(Boolean).join(', '))
    .filter(Boolean)
    .join('; ')}.`;
}
