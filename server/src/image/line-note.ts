/** Journal notes about image lines. */
import type { Note } from '../platform/journal.ts';
import type { LineRow } from './tables.ts';

/** `page` is the one of the line on which it is seen: `versions`, `schedule`; its recipe when left out. */
export function lineNote(line: Pick<LineRow, 'id' | 'name'>, text: string, page?: string): Omit<Note, 'at'> {
  const link = page === undefined ? `/images/${line.id}` : `/images/${line.id}/${page}`;
  return { kind: 'image', subject: `line:${line.id}`, text: `${line.name}${text}`, link };
}
