/** All checks of a line: what would go wrong on the hosts, why, and what to do. */
import { CheckedLine, type Check, type Finding, type LineUnderCheck, type Severity } from './check.ts';
import { excessChecks } from './excess.ts';
import { hazardChecks } from './hazards.ts';
import { machineChecks } from './machine.ts';
import { omissionChecks } from './omissions.ts';
import { orderChecks } from './order.ts';

const checks: readonly Check[] = [
  ...machineChecks,
  ...orderChecks,
  ...omissionChecks,
  ...excessChecks,
  ...hazardChecks,
];

export const checkIds: readonly string[] = checks.map((check) => check.id);

/** Checks that no line can switch off. */
export const fixedChecks: readonly string[] = checks.filter((check) => check.always).map((check) => check.id);

export interface CheckFinding extends Finding {
  readonly id: string;
}

export interface LineFindings {
  /** Worst first. A cut may go on when none of it stops the cut. */
  readonly findings: readonly CheckFinding[];
  /** What checks that are switched off would say. */
  readonly silenced: readonly CheckFinding[];
  /** How many checks found nothing. */
  readonly hold: number;
}

/** `off` are the ids of checks that the line has switched off. */
export function checkLine(line: LineUnderCheck, off: readonly string[] = []): LineFindings {
  const checked = new CheckedLine(line);
  // Of an empty recipe everything is missing; the recipe says so itself, once.
  const looked = checked.run.length === 0 ? machineChecks : checks;
  const all = looked.flatMap((check): CheckFinding[] => {
    const finding = check.find(checked);
    return finding ? [{ id: check.id, ...finding }] : [];
  });
  const isOff = (finding: CheckFinding) => off.includes(finding.id) && !fixedChecks.includes(finding.id);
  const findings = all.filter((finding) => !isOff(finding));
  return {
    findings: findings.sort((a, b) => rank(a.severity) - rank(b.severity)),
    silenced: all.filter(isOff),
    hold: looked.length - all.length,
  };
}

function rank(severity: Severity): number {
  return severity === 'stops the cut' ? 0 : 1;
}
