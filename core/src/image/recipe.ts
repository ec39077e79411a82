/**
 * A recipe: the ordered steps that make a build machine. A recipe is the reviewed source of an
 * image, so each step holds everything that decides what it does.
 */
import type { Fault } from '../result.ts';

interface StepBase {
  /** Stays with the step when it is moved or edited. */
  readonly id: string;
  readonly note?: string | undefined;
  /** Runs in every build; neither it nor anything below it comes from a checkpoint. */
  readonly alwaysRun?: boolean | undefined;
}

/** Installs the operating system from media. */
export interface OperatingSystemStep extends StepBase {
  readonly kind: 'operating system';
  readonly system: string;
  readonly edition: string;
  /** SHA-256 of the media, hex. */
  readonly mediaDigest: string;
}
/** Applies everything of the update feed up to a release. */
export interface UpdatesStep extends StepBase {
  readonly kind: 'updates';
  /** Release of the feed, such as `2027-03`. */
  readonly release: string;
}
export interface HostAgentStep extends StepBase {
  readonly kind: 'host agent';
  readonly version: string;
}
export interface JoinStep extends StepBase {
  readonly kind: 'join directory';
  /** Distinguished name of the organisational unit. */
  readonly ou: string;
}
/** Installs an application by a silent command. */
export interface ApplicationStep extends StepBase {
  readonly kind: 'application';
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
  readonly command: string;
  /** Exit codes that mean success; 3010 means success with a restart pending. */
  readonly exitCodes: readonly number[];
}
export interface ScriptStep extends StepBase {
  readonly kind: 'script';
  readonly title: string;
  readonly text: string;
}
export interface RestartStep extends StepBase {
  readonly kind: 'restart';
}

export type Step =
  OperatingSystemStep | UpdatesStep | HostAgentStep | JoinStep | ApplicationStep | ScriptStep | RestartStep;
export type StepKind = Step['kind'];

export const stepKinds = [
  'operating system',
  'updates',
  'host agent',
  'join directory',
  'application',
  'script',
  'restart',
] as const satisfies readonly StepKind[];

/** Hardware of a build machine. Memory and disk in bytes. */
export interface Hardware {
  readonly processors: number;
  readonly memoryBytes: number;
  readonly diskBytes: number;
  readonly firmware: 'uefi' | 'bios';
  readonly graphics: boolean;
}

/** Minutes a step is taken to last before there is any history of it. */
export const usualMinutes: Record<StepKind, number> = {
  'operating system': 18,
  updates: 14,
  'host agent': 1,
  'join directory': 1,
  application: 4,
  script: 1,
  restart: 3,
};

/** A step in a few words: what it is, and what exactly. */
export function describeStep(step: Step): { title: string; detail: string } {
  switch (step.kind) {
    case 'operating system':
      return { title: 'Operating system', detail: `${step.system} ${step.edition}`.trim() };
    case 'updates':
      return { title: 'Updates', detail: `everything up to release ${step.release}` };
    case 'host agent':
      return { title: 'Host agent', detail: `version ${step.version}, silent until cut` };
    case 'join directory':
      return { title: 'Join directory', detail: step.ou };
    case 'application':
      return { title: `${step.name} ${step.version}`, detail: `silent, exit ${step.exitCodes.join(' or ')}` };
    case 'script':
      return { title: step.title || 'Script', detail: step.text.split('\n')[0] ?? '' };
    case 'restart':
      return { title: 'Restart', detail: 'and wait until settled' };
  }
}

/** What stops a recipe from being built; paths are `steps.<index>.<field>`. */
export function recipeFaults(steps: readonly Step[]): Fault[] {
  if (steps.length === 0) {
    return [{ path: 'steps', message: 'The recipe is empty; add an operating system step first' }];
  }
  const faults: Fault[] = [];
  const first = steps[0];
  if (first && first.kind !== 'operating system') {
    faults.push({ path: 'steps.0.kind', message: 'The first step must install the operating system' });
  }
  const seen = new Set<string>();
  steps.forEach((step, index) => {
    if (seen.has(step.id))
      faults.push({ path: `steps.${index}.id`, message: `"${step.id}" is used by two steps` });
    seen.add(step.id);
    if (step.kind === 'operating system' && index > 0) {
      faults.push({
        path: `steps.${index}.kind`,
        message: 'The operating system can be installed only once, first',
      });
    }
  });
  return faults;
}
