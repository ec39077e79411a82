/** New steps, filled with what is most often right here. */
import type { Step, StepKind } from './recipe.ts';
import type { BuildSources } from './sources.ts';

/** A step of a kind, filled with what is most often right, under an id that is free. */
export function newStep(kind: StepKind, others: readonly Step[], sources: BuildSources): Step {
  const id = freeId(kind.replaceAll(' ', '-'), others);
  const application = { id, name: '', publisher: '', version: '' };
  switch (kind) {
    case 'operating system':
      return { id, kind, ...newestMedia(sources) };
    case 'updates':
      return { id, kind, release: sources.release };
    case 'guest tools':
      return {
        id,
        kind,
        version: sources.toolsVersion,
        drivers: ['para-virtual network', 'para-virtual disk'],
      };
    case 'language pack':
      return { id, kind, language: '' };
    case 'application':
      return { ...application, kind, command: '', exitCodes: [0, 3010] };
    case 'packaged application':
      return { ...application, kind, digest: '' };
    case 'application by option sheet':
      return { ...application, kind, sheet: '', digest: '' };
    case 'file copy':
      return { id, kind, source: '', target: '', digest: '' };
    case 'shortcut':
      return { id, kind, name: '', target: '', place: 'desktop' };
    case 'registry setting':
      return { id, kind, key: '', name: '', type: 'REG_SZ', value: '' };
    case 'service start':
      return { id, kind, name: '', start: 'disabled' };
    case 'scheduled task':
      return { id, kind, name: '', action: 'remove', command: '', schedule: '' };
    case 'certificate':
      return { id, kind, store: 'trusted publishers', subject: '', digest: '' };
    case 'script':
      return { id, kind, title: '', text: '' };
    case 'join directory':
      return { id, kind, ou: sources.buildUnit };
    case 'host agent':
      return { id, kind, version: sources.agentVersion };
    case 'profile agent':
      return { id, kind, version: '', share: '' };
    case 'settings baseline':
      return { id, kind, baseline: '', revision: 1 };
    case 'restart':
      return { id, kind };
    case 'wait for settle':
      return { id, kind, limitMinutes: 10 };
    case 'clean-up':
      return { id, kind, targets: ['temporary files', 'logs'] };
    case 'fragment':
      return { id, kind, fragment: '', revision: 1 };
  }
}

function newestMedia({ media }: BuildSources) {
  const newest = media.at(-1);
  return {
    system: newest?.system ?? '',
    edition: newest?.editions[0] ?? '',
    mediaDigest: newest?.digest ?? '',
  };
}

/**
 * The recipe with steps put where new ones belong: before the restarts and waits that end it, or at
 * the very end when they are of that kind themselves.
 */
export function placedBeforeEnd(steps: readonly Step[], added: readonly Step[]): Step[] {
  const ends = (step: Step) => step.kind === 'restart' || step.kind === 'wait for settle';
  const end = added.every(ends) ? steps.length : steps.findLastIndex((step) => !ends(step)) + 1;
  return [...steps.slice(0, end), ...added, ...steps.slice(end)];
}

/** Copies of steps of another recipe under ids that are free here, in their order. */
export function copiesOf(taken: readonly Step[], others: readonly Step[]): Step[] {
  return taken.reduce<Step[]>((copies, step) => [...copies, copyOfStep(step, [...others, ...copies])], []);
}

/** The same step once more, below another id. */
export function copyOfStep(step: Step, others: readonly Step[]): Step {
  return { ...step, id: freeId(step.id.replace(/-\d+$/, ''), others) };
}

/** An id that no other step has: the base, or the base with a number. */
export function freeId(base: string, others: readonly Step[]): string {
  const taken = new Set(others.map((step) => step.id));
  for (let n = 1; ; n++) {
    const id = n === 1 ? base : `${base}-${n}`;
    if (!taken.has(id)) return id;
  }
}

/** The base of a machine as most lines need it, to begin with; applications go before its end. */
export function usualRecipe(sources: BuildSources): Step[] {
  const kinds: StepKind[] = [
    'operating system',
    'guest tools',
    'updates',
    'restart',
    'join directory',
    'host agent',
    'registry setting',
    'wait for settle',
    'restart',
  ];
  return kinds.reduce<Step[]>((steps, kind) => {
    const step = newStep(kind, steps, sources);
    return [...steps, step.kind === 'registry setting' ? { ...step, ...licenceByDirectory } : step];
  }, []);
}

/** Clones are licensed by the directory, since a licence of the build machine is void on them. */
export const licenceByDirectory = {
  key: 'Machine\\Software\\Licensing',
  name: 'Method',
  type: 'REG_SZ',
  value: 'directory',
} as const;
