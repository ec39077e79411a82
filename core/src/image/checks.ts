/** Checks before a cut: what would go wrong on the hosts, why, and what to do. */
import type { Step } from './recipe.ts';

/** The build machine as the hypervisor and its agent report it. */
export interface BuildMachineState {
  readonly exists: boolean;
  readonly running: boolean;
  readonly restartPending: boolean;
  readonly agent: boolean;
  readonly joined: boolean;
  /** Whether every step of the current recipe has been run on it. */
  readonly upToDate: boolean;
}

export type Severity = 'stops the cut' | 'attention';

export interface CheckFinding {
  readonly id: string;
  readonly severity: Severity;
  readonly title: string;
  /** Why it matters. */
  readonly reason: string;
  /** What the finding rests on. */
  readonly evidence: string;
  /** The one action that mends it. */
  readonly fix?: 'shut down' | 'restart' | 'build' | 'add agent' | 'add updates' | 'add join';
}

interface Check {
  readonly id: string;
  find(steps: readonly Step[], machine: BuildMachineState): Omit<CheckFinding, 'id'> | undefined;
}

const has = (steps: readonly Step[], kind: Step['kind']) => steps.some((step) => step.kind === kind);

const checks: readonly Check[] = [
  {
    id: 'built',
    find: (_steps, machine) =>
      machine.exists && machine.upToDate
        ? undefined
        : {
            severity: 'stops the cut',
            title: machine.exists ? 'The machine is behind the recipe' : 'There is no build machine yet',
            reason: 'a version would not hold what its recipe says',
            evidence: machine.exists ? 'steps of the recipe have not run on it' : 'no build has finished',
            fix: 'build',
          },
  },
  {
    id: 'running',
    find: (_steps, machine) =>
      machine.exists && machine.running
        ? {
            severity: 'stops the cut',
            title: 'The build machine is running',
            reason: 'a copy of a running machine holds half-written files',
            evidence: 'the hypervisor reports it powered on',
            fix: 'shut down',
          }
        : undefined,
  },
  {
    id: 'restart pending',
    find: (_steps, machine) =>
      machine.exists && machine.restartPending
        ? {
            severity: 'stops the cut',
            title: 'A restart is pending',
            reason: 'every host would finish the installation at its first start, with people waiting',
            evidence: 'an installer ended with exit 3010 and no restart came after it',
            fix: 'restart',
          }
        : undefined,
  },
  {
    id: 'agent',
    find: (steps, machine) =>
      has(steps, 'host agent') && (machine.agent || !machine.exists)
        ? undefined
        : {
            severity: 'stops the cut',
            title: 'No host agent on the machine',
            reason: 'hosts made from it could not attach a package or report that they are well',
            evidence: has(steps, 'host agent')
              ? 'the agent does not answer'
              : 'the recipe has no host agent step',
            ...(has(steps, 'host agent') ? { fix: 'build' as const } : { fix: 'add agent' as const }),
          },
  },
  {
    id: 'updates',
    find: (steps) =>
      has(steps, 'updates')
        ? undefined
        : {
            severity: 'attention',
            title: 'No updates step',
            reason: 'hosts would go out with every hole found since the media was made',
            evidence: 'the recipe has no updates step',
            fix: 'add updates',
          },
  },
  {
    id: 'joined',
    find: (steps, machine) =>
      has(steps, 'join directory') && (machine.joined || !machine.exists)
        ? undefined
        : {
            severity: 'stops the cut',
            title: 'Not joined to the directory',
            reason: 'each clone would ask for the joined-machine components on its first start',
            evidence: has(steps, 'join directory')
              ? 'the directory has no computer account for it'
              : 'the recipe has no join step',
            ...(has(steps, 'join directory') ? { fix: 'build' as const } : { fix: 'add join' as const }),
          },
  },
];

/** How many checks there are. */
export const checkCount = checks.length;

/** Everything found, worst first. A cut may go on when none of it stops the cut. */
export function checkBeforeCut(steps: readonly Step[], machine: BuildMachineState): CheckFinding[] {
  const found = checks.flatMap((check) => {
    const finding = check.find(steps, machine);
    return finding ? [{ id: check.id, ...finding }] : [];
  });
  return found.sort((a, b) => rank(a.severity) - rank(b.severity));
}

function rank(severity: Severity): number {
  return severity === 'stops the cut' ? 0 : 1;
}
