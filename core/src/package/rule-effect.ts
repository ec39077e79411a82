/** What noise rules do to captures that were judged by others, and rules that a row suggests. */
import { entryName, type Entry, type EntryKind } from '../inventory/entry.ts';
import type { DifferenceLeaf } from './difference-tree.ts';
import { ok, type Result } from '../result.ts';
import { ownerKey } from './owners.ts';
import { differenceOf, dropNoise, noiseMatcher, type CaptureComparison, type NoiseRule } from './noise.ts';

export interface RuleEffect {
  /** Rows that were kept and would be dropped, and the other way round. */
  readonly dropped: readonly Entry[];
  readonly kept: readonly Entry[];
}

/** What changes about a capture when these rules judge it instead. Errors: a rule that cannot be read. */
export function ruleEffect(comparison: CaptureComparison, rules: readonly NoiseRule[]): Result<RuleEffect> {
  const judged = dropNoise(differenceOf(comparison), rules);
  if (!judged.ok) return judged;
  const before = new Set(comparison.dropped.map((row) => row.entry));
  const after = new Set(judged.value.dropped.map((row) => row.entry));
  return ok({
    dropped: [...after].filter((entry) => !before.has(entry)),
    kept: [...before].filter((entry) => !after.has(entry)),
  });
}

/** The rows that one more rule would take if it were asked before all others. */
export function rowsTaken(comparison: CaptureComparison, rule: NoiseRule): Result<Entry[]> {
  const matcher = noiseMatcher([rule]);
  if (!matcher.ok) return matcher;
  const rows =
    rule.action === 'keep'
      ? comparison.dropped.map((row) => row.entry)
      : [
          ...comparison.added,
          ...comparison.removed,
          ...comparison.changed.map((change) => change.after),
          ...comparison.moved.map((move) => move.to),
        ];
  return ok(rows.filter((entry) => matcher.value(entry) !== undefined));
}

export interface ProposedRule {
  readonly label: string;
  readonly glob: string;
  /** Rows of the capture that it would take, and the names of the first of them but the row itself. */
  readonly taken: number;
  readonly others: readonly string[];
}

const OTHERS = 3;

/** Rules that a row could become, with what each would take in this capture. */
export function proposedRules(comparison: CaptureComparison, leaf: DifferenceLeaf): ProposedRule[] {
  const own = ownerKey(leaf.entry);
  return proposedGlobs(leaf.entry).map(({ label, glob }) => {
    const found = rowsTaken(comparison, ruleOfRow(leaf, glob, ''));
    const taken = found.ok ? found.value : [];
    const others: string[] = [];
    for (const entry of taken) {
      if (others.length === OTHERS) break;
      if (ownerKey(entry) !== own) others.push(entryName(entry));
    }
    return { label, glob, taken: taken.length, others };
  });
}

const inFolders: readonly EntryKind[] = ['file', 'folder', 'link'];

/** A service or value of the same name as a file is another thing, so the rule says of what kind it speaks. */
export function ruleOfRow({ entry, rule }: DifferenceLeaf, glob: string, reason: string): NoiseRule {
  const kinds = inFolders.includes(entry.kind) ? {} : { kinds: [entry.kind] };
  return { id: reason, action: rule === undefined ? 'drop' : 'keep', ...kinds, glob, reason };
}

export interface RuleProposal {
  /** What it takes, in words. */
  readonly label: string;
  readonly glob: string;
}

/** Globs that would take a row: it alone, what lies in its folders, what ends as it does. */
export function proposedGlobs(entry: Entry): RuleProposal[] {
  const name = entryName(entry).replaceAll('\\', '/');
  const proposals: RuleProposal[] = [{ label: 'this alone', glob: escaped(name) }];
  const parts = name.split('/');
  const file = parts.at(-1) ?? '';
  const ending = /\.[^./]+$/.exec(file)?.[0];
  const folder = parts.slice(0, -1);
  if (ending && folder.length > 0)
    proposals.push({
      label: `every ${ending} in ${folder.at(-1) ?? ''}`,
      glob: `${escaped(folder.join('/'))}/*${escaped(ending)}`,
    });
  for (let depth = folder.length; depth > 0; depth--)
    proposals.push({
      label: `all in ${folder.slice(0, depth).join('/')}`,
      glob: `${escaped(folder.slice(0, depth).join('/'))}/**`,
    });
  if (ending) proposals.push({ label: `every ${ending}`, glob: `**/*${escaped(ending)}` });
  return proposals;
}

/** Characters that mean something in a glob stand for themselves. */
function escaped(name: string): string {
  return name.replace(/[\\*?[\]{}()!+@|$^]/g, '\\$&');
}
