/** Fixes of an expanded recipe, as changes of the recipe that was written. */
import { foldFragments, type FragmentLibrary } from '../fragments.ts';
import type { Step } from '../recipe.ts';
import type { CheckFinding, LineFindings } from './check-line.ts';

/** A fix that would change what is inside a fragment is taken off, and the evidence says where to mend it. */
export function foldFixes(
  { findings, ...rest }: LineFindings,
  written: readonly Step[],
  library: FragmentLibrary,
): LineFindings {
  return { ...rest, findings: findings.map((finding) => foldFix(finding, written, library)) };
}

function foldFix(finding: CheckFinding, written: readonly Step[], library: FragmentLibrary): CheckFinding {
  const { fix, ...told } = finding;
  if (fix?.action !== 'change') return finding;
  const steps = foldFragments(fix.steps, written, library);
  if (steps) return { ...told, fix: { ...fix, steps } };
  return { ...told, evidence: `${told.evidence}; it is mended in the fragment, for all lines that share it` };
}
