/**
 * What was done to a build machine by hand, as steps of a recipe that do it again: the differences
 * from the last checkpoint, gathered by what they belong to.
 */
import type { CaptureComparison, ChangeKind } from '../package/noise.ts';
import { isApplication } from './checks/check.ts';
import { entryName, type ApplicationEntry, type Entry } from '../inventory/entry.ts';
import { freeId, placedBeforeEnd } from './new-step.ts';
import { ownersOf } from './owned-entries.ts';
import { registryTypes, serviceStarts, type RegistryStep, type ServiceStep, type Step } from './recipe.ts';

/** An installer that is known, to fill in what an inventory does not tell. */
export interface KnownInstaller {
  readonly name: string;
  readonly command: string;
}

/** What would bring a change about again. */
export type Reproduction =
  | { readonly kind: 'add'; readonly step: Step }
  /** The step that brings it about already, with what it is to bring about now. */
  | { readonly kind: 'change'; readonly step: Step }
  /** The step of the recipe whose outcome was taken away. */
  | { readonly kind: 'leave out'; readonly stepId: string }
  /** Nothing in a recipe does it by itself; what to do instead. */
  | { readonly kind: 'by script'; readonly step: Step; readonly advice: string };

export interface HandMadeChange {
  readonly title: string;
  readonly change: ChangeKind;
  /** Entries it accounts for, the one it is named after first. */
  readonly entries: readonly Entry[];
  readonly reproduction: Reproduction;
}

interface Differing {
  readonly entry: Entry;
  readonly change: ChangeKind;
}

/**
 * Gathers differences and says how each comes about again. Every difference belongs to exactly one
 * change. `steps` is the recipe as it is; ids of new steps are free in it and among themselves.
 */
export function stepsFromChanges(
  comparison: CaptureComparison,
  steps: readonly Step[],
  installers: readonly KnownInstaller[],
): HandMadeChange[] {
  const differing = differencesOf(comparison);
  const applications = differing.filter(
    (row): row is Differing & { readonly entry: ApplicationEntry } => row.entry.kind === 'application',
  );
  const owners = ownersOf(
    differing.map((row) => row.entry),
    applications.map((row) => row.entry),
  );
  const made: Step[] = [];
  const naming = { taken: () => [...steps, ...made], steps, installers };
  const add = (change: HandMadeChange): HandMadeChange => {
    const { kind } = change.reproduction;
    if (kind === 'add' || kind === 'by script') made.push(change.reproduction.step);
    return change;
  };
  const ofApplications = applications.map((row) => {
    const own = differing.filter((other) => other !== row && owners.get(other.entry) === row.entry);
    return add(applicationChange(row, own, naming));
  });
  const others = differing.filter((row) => !owners.has(row.entry));
  // A folder comes with the files in it.
  const alone = others.filter((row) => row.entry.kind !== 'folder' || row.change === 'removed');
  return [...ofApplications, ...alone.map((row) => add(singleChange(row, naming)))];
}

interface Naming {
  taken(): readonly Step[];
  readonly steps: readonly Step[];
  readonly installers: readonly KnownInstaller[];
}

function differencesOf(comparison: CaptureComparison): Differing[] {
  return [
    ...comparison.added.map((entry) => ({ entry, change: 'added' as const })),
    ...comparison.changed
      .filter(({ fields }) => fields.some((field) => field !== 'modified'))
      .map(({ after }) => ({ entry: after, change: 'changed' as const })),
    ...comparison.removed.map((entry) => ({ entry, change: 'removed' as const })),
    ...comparison.moved.flatMap(({ from, to }) => [
      { entry: from, change: 'removed' as const },
      { entry: to, change: 'added' as const },
    ]),
  ];
}

function applicationChange(
  { entry, change }: { readonly entry: ApplicationEntry; readonly change: ChangeKind },
  own: readonly Differing[],
  naming: Naming,
): HandMadeChange {
  const { name, publisher, version } = entry;
  const entries = [entry, ...own.map((row) => row.entry)];
  if (change === 'removed')
    return { title: `${name} was uninstalled`, change, entries, reproduction: withoutIt(entry, naming) };
  const title = `${name} ${version} was ${change === 'added' ? 'installed' : 'updated'}`;
  const installs = installerOf(name, naming);
  if (installs) return { title, change, entries, reproduction: inVersion(installs, version) };
  const command = naming.installers.find((known) => known.name === name)?.command ?? '';
  const id = freeId(name.toLowerCase().replace(/[^\w.-]+/g, '-'), naming.taken());
  return {
    title,
    change,
    entries,
    reproduction: {
      kind: 'add',
      step: {
        id,
        kind: 'application',
        name,
        publisher,
        version,
        command,
        exitCodes: [0, 3010],
        success: { kind: 'version', name, atLeast: version },
      },
    },
  };
}

/** A shortcut or service may be called after an application; only a step that installs it counts. */
function installerOf(name: string, { steps }: Naming): Step | undefined {
  return steps.find((step) => !step.disabled && isApplication(step) && step.name === name);
}

/** The step that installs it, in another version, and looked for in that. */
function inVersion(step: Step, version: string): Reproduction {
  const success = step.success?.kind === 'version' ? { ...step.success, atLeast: version } : step.success;
  return { kind: 'change', step: { ...step, version, success } as Step };
}

/** The step that installed it is left out; else a script uninstalls what came another way. */
function withoutIt({ name }: ApplicationEntry, naming: Naming): Reproduction {
  const installs = installerOf(name, naming);
  if (installs) return { kind: 'leave out', stepId: installs.id };
  return byScript(
    naming,
    `uninstall ${name}`,
    'No step installs it; name the silent command that uninstalls it in the script',
  );
}

function singleChange({ entry, change }: Differing, naming: Naming): HandMadeChange {
  const name = entryName(entry);
  const reproduction =
    change === 'removed'
      ? takenAway(entry, naming)
      : (broughtAbout(entry, change, naming) ?? otherwise(entry, naming));
  return { title: `${nouns[entry.kind]} ${name} was ${change}`, change, entries: [entry], reproduction };
}

const nouns: Record<Entry['kind'], string> = {
  application: 'Application',
  certificate: 'Certificate',
  driver: 'Driver',
  file: 'File',
  folder: 'Folder',
  link: 'Link',
  registry: 'Registry value',
  service: 'Service',
  shortcut: 'Shortcut',
  task: 'Scheduled task',
  update: 'Update',
};

/** The step that puts or sets an entry; undefined where no kind of step does. */
function broughtAbout(entry: Entry, change: ChangeKind, naming: Naming): Reproduction | undefined {
  const id = (base: string) => freeId(base, naming.taken());
  const add = (step: Step): Reproduction => {
    const known = naming.steps.find(
      (other) => !other.disabled && other.kind === step.kind && makes(other, entry),
    );
    return known
      ? { kind: 'change', step: { ...known, ...step, id: known.id } as Step }
      : { kind: 'add', step };
  };
  switch (entry.kind) {
    case 'registry': {
      const type = registryTypes.find((known) => known === entry.type);
      if (!type) return undefined;
      const step: RegistryStep = {
        id: id('registry-setting'),
        kind: 'registry setting',
        key: entry.key,
        name: entry.name,
        type,
        value: entry.value,
      };
      return add(step);
    }
    case 'service': {
      const start = serviceStarts.find((known) => known === entry.start);
      // A start can only be set of a service that something else brought.
      if (!start || change === 'added') return undefined;
      const step: ServiceStep = { id: id('service-start'), kind: 'service start', name: entry.name, start };
      return add(step);
    }
    case 'task':
      return add({
        id: id('scheduled-task'),
        kind: 'scheduled task',
        name: entry.name,
        action: 'create',
        command: entry.run,
        schedule: entry.schedule,
      });
    case 'shortcut': {
      const at = /(?:^|\/)(desktop|start menu)\/([^/]+)$/i.exec(entry.path);
      if (!at?.[1] || !at[2]) return undefined;
      const place = at[1].toLowerCase() === 'desktop' ? 'desktop' : 'start menu';
      return add({ id: id('shortcut'), kind: 'shortcut', name: at[2], target: entry.target, place });
    }
    case 'certificate': {
      const { subject, sha256: digest } = entry;
      const store = (['trusted roots', 'intermediate', 'trusted publishers', 'personal'] as const).find(
        (known) => known === entry.store,
      );
      return store && add({ id: id('certificate'), kind: 'certificate', store, subject, digest });
    }
    case 'file': {
      const source = `files/${entry.path.split('/').at(-1) ?? ''}`;
      return add({
        id: id('file-copy'),
        kind: 'file copy',
        source,
        target: entry.path,
        digest: entry.sha256,
      });
    }
    default:
      return undefined;
  }
}

function takenAway(entry: Entry, naming: Naming): Reproduction {
  const made = naming.steps.find((step) => !step.disabled && makes(step, entry));
  if (made) return { kind: 'leave out', stepId: made.id };
  if (entry.kind === 'task')
    return {
      kind: 'add',
      step: {
        id: freeId('scheduled-task', naming.taken()),
        kind: 'scheduled task',
        name: entry.name,
        action: 'remove',
        command: '',
        schedule: '',
      },
    };
  return byScript(
    naming,
    `take away ${entryName(entry)}`,
    'No step put it there; write in the script what takes it away',
  );
}

/** Whether a step is what put an entry there. */
function makes(step: Step, entry: Entry): boolean {
  switch (entry.kind) {
    case 'shortcut':
      return step.kind === 'shortcut' && entry.path.endsWith(`/${step.name}`);
    case 'registry':
      return step.kind === 'registry setting' && step.key === entry.key && step.name === entry.name;
    case 'service':
      return step.kind === 'service start' && step.name === entry.name;
    case 'task':
      return step.kind === 'scheduled task' && step.name === entry.name;
    case 'certificate':
      return step.kind === 'certificate' && step.subject === entry.subject && step.store === entry.store;
    case 'file':
      return step.kind === 'file copy' && step.target === entry.path;
    default:
      return false;
  }
}

function otherwise(entry: Entry, naming: Naming): Reproduction {
  const advice: Partial<Record<Entry['kind'], string>> = {
    update: 'Updates come by the updates step; take a newer release there',
    driver: 'Name the driver in the guest tools step, or install it by the script',
    service: 'What brought the service is not known; install it by the script',
  };
  return byScript(
    naming,
    `bring about ${entryName(entry)}`,
    advice[entry.kind] ?? 'No kind of step does it; write in the script what does',
  );
}

function byScript(naming: Naming, what: string, advice: string): Reproduction {
  return {
    kind: 'by script',
    advice,
    step: { id: freeId('script', naming.taken()), kind: 'script', title: what, text: `rem ${what}` },
  };
}

/**
 * The recipe with some changes taken over: new steps stand before its end, steps that brought the thing
 * about are changed, and steps whose outcome was taken away are left out.
 */
export function withReproductions(steps: readonly Step[], reproductions: readonly Reproduction[]): Step[] {
  const leftOut = new Set(reproductions.flatMap((row) => (row.kind === 'leave out' ? [row.stepId] : [])));
  const added = reproductions.flatMap((row) =>
    row.kind === 'add' || row.kind === 'by script' ? [row.step] : [],
  );
  const changed = new Map(
    reproductions.flatMap((row) => (row.kind === 'change' ? [[row.step.id, row.step] as const] : [])),
  );
  const kept = steps.map((step) =>
    leftOut.has(step.id) ? { ...step, disabled: true } : (changed.get(step.id) ?? step),
  );
  return added.length > 0 ? placedBeforeEnd(kept, added) : kept;
}
