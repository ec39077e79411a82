import type { EstateControl } from '../estate/control.ts';
import type { Parts } from './parts.ts';
import { conflict } from './problem.ts';

/** What only a practice estate lets one do. Throws a conflict on a real one. */
export function practiceOnly({ control }: Pick<Parts, 'control'>): EstateControl {
  if (!control) throw conflict('This estate is real; its clock and faults are not ours to set');
  return control;
}
