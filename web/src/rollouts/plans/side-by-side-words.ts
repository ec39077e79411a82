/** What plans come to beside one another, in a sentence. */
import type { ForecastAnswer } from '@vatline/contract/rollout';

export interface PlanOutcome {
  readonly name: string;
  /** Undefined while it is worked out, or where it cannot be begun. */
  readonly answer: Pick<ForecastAnswer, 'finish' | 'minSeatsLeft'> | undefined;
}

/** The first to be done, and the one that leaves most seats; one that is both is the better in every way. */
export function bestInWords(plans: readonly PlanOutcome[]): string {
  const known = plans.filter(({ answer }) => answer !== undefined);
  if (known.length === 0) return 'Working out what each comes to';
  const first = bestBy(known, (answer) => answer.finish.p90 ?? Infinity);
  const roomiest = bestBy(known, (answer) => -answer.minSeatsLeft.p10);
  if (first === undefined) return 'None of them is ever done.';
  if (known.length === 1) return `Only ${first} can be begun.`;
  if (first === roomiest) return `${first} is done first, and leaves most seats.`;
  return roomiest === undefined
    ? `${first} is done first.`
    : `${first} is done first; ${roomiest} leaves most seats.`;
}

/** The name of the one with the least; nothing where it is without end, or several share it. */
function bestBy(
  plans: readonly PlanOutcome[],
  of: (answer: NonNullable<PlanOutcome['answer']>) => number,
): string | undefined {
  const rated = plans.flatMap(({ name, answer }) => (answer ? [{ name, rate: of(answer) }] : []));
  const least = Math.min(...rated.map(({ rate }) => rate));
  const best = rated.filter(({ rate }) => rate === least);
  return Number.isFinite(least) && best.length === 1 ? `“${best[0]?.name ?? ''}”` : undefined;
}
