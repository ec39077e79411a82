/** What a check is: a rule over a line that says what would go wrong on the hosts, and why. */
import type { Power } from '../../power.ts';
import type { Hardware } from '../hardware.ts';
import type { Step, StepKind } from '../recipe.ts';
import type { BuildSources } from '../sources.ts';
import type { FilledSheet } from '../../option-sheet/filled-sheet.ts';
import type { UpdaterFinding } from '../../package/updaters.ts';

/** The build machine as the hypervisor and its agent report it. */
export interface BuildMachineState {
  readonly exists: boolean;
  readonly running: boolean;
  readonly restartPending: boolean;
  readonly agent: boolean;
  readonly joined: boolean;
  /** Whether every step of the current recipe has been run on it. */
  readonly upToDate: boolean;
  /** Services and tasks on it that would update something by themselves. */
  readonly updaters: readonly Pick<UpdaterFinding, 'entry' | 'remedy'>[];
  /** Shortcuts that all users find, by path. */
  readonly shortcuts: readonly string[];
  /** What differs on it from its last checkpoint, noise left out: how much, and the first of it. */
  readonly changedByHand: ChangedByHand;
}

export interface ChangedByHand {
  readonly count: number;
  readonly first: string;
}

/** A build machine as the estate tells of it. */
export interface ReportedMachine {
  readonly power: Power;
  readonly restartPending: boolean;
  readonly agent: boolean;
  readonly joined: boolean;
  /** Checkpoint key of what has been run on it. */
  readonly key: string | null;
  readonly updaters: BuildMachineState['updaters'];
  readonly shortcuts: readonly string[];
  readonly changedByHand: ChangedByHand;
}

/** What checks look at of a machine, or of none; `lastKey` is the key after the last step of the recipe. */
export function machineState(
  machine: ReportedMachine | null | undefined,
  lastKey: string | undefined,
): BuildMachineState {
  return {
    exists: Boolean(machine),
    running: machine?.power === 'on',
    restartPending: machine?.restartPending ?? false,
    agent: machine?.agent ?? false,
    joined: machine?.joined ?? false,
    upToDate: lastKey !== undefined && machine?.key === lastKey,
    updaters: machine?.updaters ?? [],
    shortcuts: machine?.shortcuts ?? [],
    changedByHand: machine?.changedByHand ?? { count: 0, first: '' },
  };
}

/** Everything that checks look at. */
export interface LineUnderCheck {
  /** All steps, those left out of builds among them. */
  readonly steps: readonly Step[];
  readonly hardware: Hardware;
  readonly machine: BuildMachineState;
  readonly sources: BuildSources;
  /** Option sheets that applications can be installed by. */
  readonly optionSheets: readonly FilledSheet[];
  /** Processors that pools give the hosts made from this line. */
  readonly pools: readonly { readonly name: string; readonly processors: number }[];
}

export type Severity = 'stops the cut' | 'attention';

/** The one action that mends a finding. */
export type Fix =
  | { readonly action: 'build' | 'shut down' | 'restart' }
  | {
      readonly action: 'change';
      /** What it does, as a verb on an object. */
      readonly label: string;
      readonly steps: readonly Step[];
      readonly hardware?: Hardware;
    };

export interface Finding {
  readonly severity: Severity;
  readonly title: string;
  /** Why it matters. */
  readonly reason: string;
  /** What the finding rests on. */
  readonly evidence: string;
  readonly fix?: Fix;
}

export interface Check {
  readonly id: string;
  /** Whether it can be switched off for a line; what would spoil the copy itself cannot. */
  readonly always?: true;
  find(line: CheckedLine): Finding | undefined;
}

/** A line with the steps that builds run, and with its changes made easy to write. */
export class CheckedLine {
  /** Steps that builds run. */
  readonly run: readonly Step[];

  constructor(readonly given: LineUnderCheck) {
    this.run = given.steps.filter((step) => !step.disabled);
  }

  has(kind: StepKind): boolean {
    return this.run.some((step) => step.kind === kind);
  }

  /** Steps of one kind, typed as such. */
  of<K extends StepKind>(kind: K): Extract<Step, { kind: K }>[] {
    return this.run.filter((step): step is Extract<Step, { kind: K }> => step.kind === kind);
  }

  /** Place among the steps that builds run, -1 when there is none. */
  firstOf(...kinds: readonly StepKind[]): number {
    return this.run.findIndex((step) => kinds.includes(step.kind));
  }

  lastOf(...kinds: readonly StepKind[]): number {
    return this.run.findLastIndex((step) => kinds.includes(step.kind));
  }

  /** Number of a step as the recipe shows it, from 1. */
  number(step: Step): number {
    return this.given.steps.findIndex((other) => other.id === step.id) + 1;
  }

  /** The recipe with some steps changed. */
  changed(change: (step: Step) => Step): Step[] {
    return this.given.steps.map(change);
  }

  without(ids: readonly string[]): Step[] {
    return this.given.steps.filter((step) => !ids.includes(step.id));
  }

  /** The recipe with steps put before another, or at the end. A step that is there already moves. */
  placed(steps: readonly Step[], before?: Step): Step[] {
    const ids = steps.map((step) => step.id);
    const others = this.without(ids);
    const at = before ? others.findIndex((step) => step.id === before.id) : others.length;
    return [...others.slice(0, at), ...steps, ...others.slice(at)];
  }

  /** The recipe with steps put at its end, before the restart that ends it. */
  appended(steps: readonly Step[]): Step[] {
    const last = this.run.at(-1);
    return this.placed(steps, last?.kind === 'restart' ? last : undefined);
  }
}

/** Steps that install something people use. */
export const applicationKinds = [
  'application',
  'packaged application',
  'application by option sheet',
] as const satisfies readonly StepKind[];

export type ApplicationKind = (typeof applicationKinds)[number];

export function isApplication(step: Step): step is Extract<Step, { kind: ApplicationKind }> {
  return applicationKinds.some((kind) => kind === step.kind);
}
