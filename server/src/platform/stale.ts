import { conflict } from './problem.ts';

/**
 * Refuses a change that is not based on what is kept now: two people at once do not overwrite each
 * other. Both are revisions, 0 for nothing. Ask in the transaction of the change.
 */
export function refuseStale(kind: string, name: string, kept: number, basedOn: number): void {
  if (kept === basedOn) return;
  if (basedOn === 0) throw conflict(`There is a ${kind} named ${name} already`, 'name');
  if (kept === 0) throw conflict(`The ${kind} ${name} was deleted meanwhile`, 'basedOn');
  throw conflict(
    `Revision ${kept} of ${name} was kept meanwhile; this change is based on ${basedOn}`,
    'basedOn',
  );
}
