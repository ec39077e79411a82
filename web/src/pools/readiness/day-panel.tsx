/** A day tried out by the rules on screen, against those that are recommended: who waits, and what it costs. */
import { useMemo } from 'react';
import type { Readiness } from '@vatline/contract/pool/readiness';
import type { ReadinessFacts, ReadinessRules } from '@vatline/core/pool/readiness';
import type { DaysOutcome } from '@vatline/core/pool/simulated-day';
import { capital, count, money, plural } from '../../parts/format.ts';
import { How } from '../../parts/how.tsx';
import { DayChart } from './day-chart.tsx';
import { useDay } from './use-day.ts';
import { shareInWords } from './share-in-words.ts';
import { dayNames } from './week-grid.tsx';

interface Props {
  readonly readiness: Readiness;
  readonly facts: ReadinessFacts;
  readonly rules: ReadinessRules;
  /** Monday is 0. */
  readonly day: number;
}

export function DayPanel({ readiness, facts, rules, day }: Props) {
  const { leads, startsAtOnce, prices } = readiness;
  const recommended = useMemo(() => recommendedFor(rules), [rules]);
  const answer = useDay({
    input: {
      facts,
      spreads: {
        start: [leads.start.p50Minutes, leads.start.p90Minutes],
        resume: [leads.resume.p50Minutes, leads.resume.p90Minutes],
        make: [leads.make.p50Minutes, leads.make.p90Minutes],
      },
      startsAtOnce,
      prices,
      day,
    },
    rules,
    recommended,
  });
  const isSame = JSON.stringify(rules) === JSON.stringify(recommended);
  return (
    <section aria-label="A day tried out">
      <h2>{dayNames[day]} tried out</h2>
      {!answer && <p className="quiet">Twenty days are being tried out.</p>}
      {answer && (
        <>
          <p>
            {answer.chosen.waitedShare === 0
              ? 'Nobody waits for a seat.'
              : `${capital(shareInWords(answer.chosen.waitedShare))} of those who come wait, ${answer.chosen.meanWaitMinutes.toFixed(1)} min on average and at most ${plural(answer.chosen.longestWaitMinutes, 'minute')}.`}
          </p>
          <DayChart answer={answer} isSame={isSame} />
          <table className="table day-table" aria-label="Chosen against recommended">
            <thead>
              <tr>
                <th>A day</th>
                <th className="number">Wait</th>
                <th className="number">Host hours</th>
                <th className="number">Made</th>
                <th className="number">Cost</th>
              </tr>
            </thead>
            <tbody>
              <Row name="as chosen" outcome={answer.chosen} />
              {!isSame && <Row name="as recommended" outcome={answer.recommended} />}
            </tbody>
          </table>
          <p className="quiet">
            {isSame && 'The rules are as recommended. '}
            <How rows={howRows(readiness)} />
          </p>
        </>
      )}
    </section>
  );
}

function Row({ name, outcome }: { name: string; outcome: DaysOutcome }) {
  return (
    <tr>
      <td>{name}</td>
      <td className="number">{shareInWords(outcome.waitedShare)}</td>
      <td className="number">{count(Math.round(outcome.onHours))}</td>
      <td className="number">{count(Math.round(outcome.made))}</td>
      <td className="number">{money(outcome.cost)}</td>
    </tr>
  );
}

/** The same week and bounds, with just the spares that the people who come ask for. */
export function recommendedFor(rules: ReadinessRules): ReadinessRules {
  return { ...rules, spares: 'recommended', leastOn: rules.leastOn.map(() => 0) };
}

function howRows({ leads }: Readiness): readonly (readonly [string, string])[] {
  const lead = (name: string, { p90Minutes, measured }: Readiness['leads']['start']) =>
    `${name} in ${p90Minutes.toFixed(1)} min (${measured === 0 ? 'assumed' : `nine of ten of the last ${measured}`})`;
  return [
    [
      'People',
      'come at random with the hour’s rate, and leave so that sessions follow the expected curve; 20 days, each with others',
    ],
    ['Spares', 'seats so that in the lead time of the next host more come only 1 time of 100'],
    [
      'Lead time',
      [lead('started', leads.start), lead('resumed', leads.resume), lead('made', leads.make)].join('; '),
    ],
    ['Hosts', 'start, are made and rest by the very rule that keeps the pool; each look is a minute apart'],
  ];
}
