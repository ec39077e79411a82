/** What differs between two sheets of a suite. */
import type { OptionSuite, OptionValue, SheetValues } from './suite.ts';

export interface SheetDifference {
  readonly option: string;
  readonly label: string;
  /** In words. */
  readonly before: string;
  readonly after: string;
  /** Of many: what came and went. */
  readonly added: readonly string[];
  readonly removed: readonly string[];
}

/** Options in the order of the suite; the order within many does not matter. */
export function compareSheets(
  suite: OptionSuite,
  before: SheetValues,
  after: SheetValues,
): SheetDifference[] {
  return suite.options.flatMap(({ id, label }): SheetDifference[] => {
    const [old, now] = [listOf(before[id]), listOf(after[id])];
    const added = now.filter((one) => !old.includes(one));
    const removed = old.filter((one) => !now.includes(one));
    if (added.length + removed.length === 0) return [];
    return [{ option: id, label, before: inWords(before[id]), after: inWords(after[id]), added, removed }];
  });
}

function listOf(value: OptionValue | undefined): readonly string[] {
  if (Array.isArray(value)) return value as readonly string[];
  return [inWords(value)];
}

export function inWords(value: OptionValue | undefined): string {
  if (value === undefined || value === '') return 'nothing';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'string') return value;
  return value.length === 0 ? 'none' : value.join(', ');
}
