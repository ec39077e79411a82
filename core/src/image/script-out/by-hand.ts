/** What a script asks a person for, where no script can know how it is done on their machine. */
import type { Step, StepKind } from '../recipe.ts';

const kinds = [
  'operating system',
  'updates',
  'guest tools',
  'packaged application',
  'application by option sheet',
  'host agent',
  'profile agent',
  'settings baseline',
] as const satisfies readonly StepKind[];

export type ByHandStep = Extract<Step, { kind: (typeof kinds)[number] }>;

export function isByHand(step: Step): step is ByHandStep {
  return kinds.some((kind) => kind === step.kind);
}

/** An order to a person, without a full stop. */
export function byHand(step: ByHandStep): string {
  switch (step.kind) {
    case 'operating system':
      return `install ${step.system} ${step.edition} from the media with SHA-256 ${step.mediaDigest}`;
    case 'updates':
      return `install ${step.categories?.join(' and ') ?? 'all'} updates up to release ${step.release}`;
    case 'guest tools':
      return `install guest tools ${step.version}${step.drivers.length > 0 ? ` with the drivers ${step.drivers.join(', ')}` : ''}`;
    case 'packaged application':
      return `lay out the container of ${step.name} ${step.version}, digest ${step.digest}, by: vatline unpack`;
    case 'application by option sheet':
      return `install ${step.name} ${step.version} by the option sheet ${step.sheet}`;
    case 'host agent':
      return `install host agent ${step.version}, silent until the cut`;
    case 'profile agent':
      return `install profile agent ${step.version} with the profiles on ${step.share}`;
    case 'settings baseline':
      return `apply revision ${step.revision} of the settings baseline ${step.baseline}`;
  }
}

/** In the words for making a scheduled task, whose recurrence every system writes in its own way. */
export function taskByHand(step: Extract<Step, { kind: 'scheduled task' }>): string {
  return step.action === 'remove'
    ? `take away the scheduled task ${step.name}`
    : `make the scheduled task ${step.name} that runs ${step.command}, ${step.schedule}`;
}
