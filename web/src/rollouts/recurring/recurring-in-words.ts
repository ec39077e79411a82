/** A rollout that comes again, as people say it. */
import type { Recurring } from '@vatline/contract/recurring';
import type { Plan } from '@vatline/contract/rollout';
import type { RecurringTakes } from '@vatline/core/rollout/recurring';
import { ruleInWords } from '@vatline/core/time/rule-in-words';
import { capital, moment } from '../../parts/format.ts';

export const takesInWords: Record<RecurringTakes, string> = {
  'newest approved': 'the newest approved version',
  'made anew': 'hosts made anew',
};

/** `On Sunday, 01:00 to 05:00, 4 at a time: the newest approved version.` */
export function recurringInWords(takes: RecurringTakes, { window, batch }: Plan): string {
  return `${capital(ruleInWords(window.rule))}, ${window.start} to ${window.end}, ${batch} at a time: ${takesInWords[takes]}.`;
}

/** What comes next, and what it would do as things are. */
export function nextInWords({ next, brings, why }: Recurring, zone: string): string {
  const [first] = next;
  if (!first) return 'No window comes any more.';
  const when = `Next ${moment(first.start, zone)}`;
  if (!brings) return `${when}; as things are it begins nothing: ${why}.`;
  return brings.isRemake ? `${when}.` : `${when}; as things are it brings version ${brings.number}.`;
}
