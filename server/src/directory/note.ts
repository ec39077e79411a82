import type { Parts } from '../platform/parts.ts';

/** What was done to the directory, for the journal. */
export function directoryNote(
  { journal, estate }: Pick<Parts, 'journal' | 'estate'>,
  text: string,
): Promise<void> {
  return journal.note({
    at: estate.clock.now(),
    kind: 'estate',
    subject: 'estate',
    text,
    link: '/pools/directory',
  });
}
