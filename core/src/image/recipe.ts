/**
 * A recipe: the ordered steps that make a build machine. A recipe is the reviewed source of an
 * image, so each step holds everything that decides what it does.
 */
import type { Fault } from '../result.ts';
import type { SuccessCheck } from './success-check.ts';

/** What every step has, whatever its kind. None of it but `restart` and `success` decides the outcome. */
export interface StepCommon {
  /** Stays with the step when it is moved or edited. */
  readonly id: string;
  /** What the step is called in place of its usual title. */
  readonly label?: string | undefined;
  /** Name of the section it stands under; steps of one section stand together. */
  readonly section?: string | undefined;
  readonly note?: string | undefined;
  /** Minutes it is expected to last, while there is no history of it. */
  readonly expectedMinutes?: number | undefined;
  /** How often it is tried again after a failure, 0 when absent. */
  readonly retries?: number | undefined;
  /** Restart after the step: when the step asks for one, or in any case. Without it none. */
  readonly restart?: 'when asked' | 'always' | undefined;
  /** What must be true afterwards; a step that does not leave it so has failed. */
  readonly success?: SuccessCheck | undefined;
  /** Runs in every build; neither it nor anything below it comes from a checkpoint. */
  readonly alwaysRun?: boolean | undefined;
  /** Stands in the recipe but is left out of builds. */
  readonly disabled?: boolean | undefined;
}

/** Installs the operating system from media. */
export interface OperatingSystemStep extends StepCommon {
  readonly kind: 'operating system';
  readonly system: string;
  readonly edition: string;
  /** BCP 47 tag, such as `en-IE`. */
  readonly language?: string | undefined;
  /** SHA-256 of the media, hex. */
  readonly mediaDigest: string;
}
export const updateCategories = ['security', 'quality', 'drivers', 'features'] as const;
/** Applies everything of an update feed up to a release. */
export interface UpdatesStep extends StepCommon {
  readonly kind: 'updates';
  /** Name of the feed; the estate's only one when absent. */
  readonly feed?: string | undefined;
  /** Release of the feed, such as `2027-03`. */
  readonly release: string;
  /** Only these categories; security and quality when absent. */
  readonly categories?: readonly (typeof updateCategories)[number][] | undefined;
}
/** Tools and para-virtual drivers of the hypervisor. */
export interface GuestToolsStep extends StepCommon {
  readonly kind: 'guest tools';
  readonly version: string;
  readonly drivers: readonly string[];
}
export interface LanguagePackStep extends StepCommon {
  readonly kind: 'language pack';
  /** BCP 47 tag, such as `ga-IE`. */
  readonly language: string;
}
/** Installs an application by a silent command. */
export interface ApplicationStep extends StepCommon {
  readonly kind: 'application';
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
  readonly command: string;
  /** Exit codes that mean success; 3010 means success with a restart pending. */
  readonly exitCodes: readonly number[];
}
/** Puts the content of a package into the image itself. */
export interface PackagedApplicationStep extends StepCommon {
  readonly kind: 'packaged application';
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
  /** SHA-256 of the container's manifest, hex. */
  readonly digest: string;
}
/** Installs an application by a filled option sheet. */
export interface OptionSheetStep extends StepCommon {
  readonly kind: 'application by option sheet';
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
  /** Name of the filled sheet. */
  readonly sheet: string;
  /** SHA-256 of what the sheet renders to, hex: another sheet content is another step. */
  readonly digest: string;
}
export interface FileCopyStep extends StepCommon {
  readonly kind: 'file copy';
  readonly source: string;
  readonly target: string;
  /** SHA-256 of the file, hex. */
  readonly digest: string;
}
/** A shortcut that all users find. */
export interface ShortcutStep extends StepCommon {
  readonly kind: 'shortcut';
  readonly name: string;
  readonly target: string;
  readonly place: 'desktop' | 'start menu';
}
export const registryTypes = ['REG_SZ', 'REG_EXPAND_SZ', 'REG_DWORD', 'REG_QWORD', 'REG_MULTI_SZ'] as const;
export interface RegistryStep extends StepCommon {
  readonly kind: 'registry setting';
  readonly key: string;
  readonly name: string;
  readonly type: (typeof registryTypes)[number];
  readonly value: string;
}
export const serviceStarts = ['automatic', 'delayed', 'manual', 'disabled'] as const;
export interface ServiceStep extends StepCommon {
  readonly kind: 'service start';
  readonly name: string;
  readonly start: (typeof serviceStarts)[number];
}
export interface ScheduledTaskStep extends StepCommon {
  readonly kind: 'scheduled task';
  readonly name: string;
  readonly action: 'create' | 'remove';
  /** What it runs, when it is created. */
  readonly command: string;
  readonly schedule: string;
}
export const certificateStores = ['trusted roots', 'intermediate', 'trusted publishers', 'personal'] as const;
export interface CertificateStep extends StepCommon {
  readonly kind: 'certificate';
  readonly store: (typeof certificateStores)[number];
  readonly subject: string;
  /** SHA-256 of the certificate, hex. */
  readonly digest: string;
}
export const scriptLanguages = ['powershell', 'batch', 'shell'] as const;
export interface ScriptStep extends StepCommon {
  readonly kind: 'script';
  readonly title: string;
  /** Batch when absent. */
  readonly language?: (typeof scriptLanguages)[number] | undefined;
  readonly text: string;
}
export interface JoinStep extends StepCommon {
  readonly kind: 'join directory';
  /** Distinguished name of the organisational unit. */
  readonly ou: string;
}
export interface HostAgentStep extends StepCommon {
  readonly kind: 'host agent';
  readonly version: string;
}
/** The agent that brings people's profiles to whichever host they are on. */
export interface ProfileAgentStep extends StepCommon {
  readonly kind: 'profile agent';
  readonly version: string;
  /** Where the profiles are kept. */
  readonly share: string;
}
/** Applies a settings baseline. */
export interface BaselineStep extends StepCommon {
  readonly kind: 'settings baseline';
  readonly baseline: string;
  readonly revision: number;
}
export interface RestartStep extends StepCommon {
  readonly kind: 'restart';
}
/** Waits until the machine has nothing left to do. */
export interface SettleStep extends StepCommon {
  readonly kind: 'wait for settle';
  readonly limitMinutes: number;
}
export const cleanUpTargets = ['temporary files', 'update store', 'logs', 'component store'] as const;
export interface CleanUpStep extends StepCommon {
  readonly kind: 'clean-up';
  readonly targets: readonly (typeof cleanUpTargets)[number][];
}

/** Stands for the steps of a fragment, which many lines share, at one of its revisions. */
export interface FragmentStep extends Omit<
  StepCommon,
  'restart' | 'success' | 'retries' | 'expectedMinutes'
> {
  readonly kind: 'fragment';
  /** Name of the fragment. */
  readonly fragment: string;
  readonly revision: number;
  // How each of its steps runs is said in the fragment.
  readonly restart?: undefined;
  readonly success?: undefined;
  readonly retries?: undefined;
  readonly expectedMinutes?: undefined;
}

export type Step =
  | OperatingSystemStep
  | UpdatesStep
  | GuestToolsStep
  | LanguagePackStep
  | ApplicationStep
  | PackagedApplicationStep
  | OptionSheetStep
  | FileCopyStep
  | ShortcutStep
  | RegistryStep
  | ServiceStep
  | ScheduledTaskStep
  | CertificateStep
  | ScriptStep
  | JoinStep
  | HostAgentStep
  | ProfileAgentStep
  | BaselineStep
  | RestartStep
  | SettleStep
  | CleanUpStep
  | FragmentStep;
export type StepKind = Step['kind'];

/** In the order in which a recipe usually has them. */
export const stepKinds = [
  'operating system',
  'updates',
  'guest tools',
  'language pack',
  'application',
  'packaged application',
  'application by option sheet',
  'file copy',
  'shortcut',
  'registry setting',
  'service start',
  'scheduled task',
  'certificate',
  'script',
  'join directory',
  'host agent',
  'profile agent',
  'settings baseline',
  'restart',
  'wait for settle',
  'clean-up',
  'fragment',
] as const satisfies readonly StepKind[];

/** Steps that builds run: all but the disabled ones. */
export function enabledSteps(steps: readonly Step[]): readonly Step[] {
  return steps.filter((step) => !step.disabled);
}

/** Ids that stand twice. */
export function idFaults(steps: readonly Step[]): Fault[] {
  const seen = new Set<string>();
  return steps.flatMap(({ id }, index) => {
    if (seen.has(id)) return [{ path: `steps.${index}.id`, message: `"${id}" is used by two steps` }];
    seen.add(id);
    return [];
  });
}

/** What stops a recipe from being built; paths are `steps.<index>.<field>`. */
export function recipeFaults(steps: readonly Step[]): Fault[] {
  if (enabledSteps(steps).length === 0) {
    return [{ path: 'steps', message: 'The recipe is empty; add an operating system step first' }];
  }
  const faults = idFaults(steps);
  let enabled = 0;
  steps.forEach((step, index) => {
    if (step.disabled) return;
    // Whether a fragment begins with the system is told once its steps stand in its place.
    if (enabled === 0 && step.kind !== 'operating system' && step.kind !== 'fragment')
      faults.push({
        path: `steps.${index}.kind`,
        message: 'The first step must install the operating system',
      });
    if (enabled > 0 && step.kind === 'operating system')
      faults.push({
        path: `steps.${index}.kind`,
        message: 'The operating system can be installed only once, first',
      });
    enabled += 1;
  });
  return [...faults, ...sectionFaults(steps)];
}

/** A section is one run of steps: a name that comes back further down would be two sections. */
function sectionFaults(steps: readonly Step[]): Fault[] {
  const closed = new Set<string>();
  const faults: Fault[] = [];
  let open: string | undefined;
  steps.forEach((step, index) => {
    if (step.section === open) return;
    if (open !== undefined) closed.add(open);
    open = step.section;
    if (open !== undefined && closed.has(open))
      faults.push({
        path: `steps.${index}.section`,
        message: `The section "${open}" has ended further up; move the step there or name another section`,
      });
  });
  return faults;
}
