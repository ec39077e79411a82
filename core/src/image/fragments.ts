/**
 * Fragments: steps that many lines share. A recipe names a fragment by revision; whatever is planned,
 * checked or built is the recipe with the fragment's steps in its place.
 */
import { ok, refuseAll, type Fault, type Result } from '../result.ts';
import { canonicalJson } from './checkpoint-plan.ts';
import { idFaults, recipeFaults, type FragmentStep, type Step } from './recipe.ts';

/** The steps of every revision of every fragment, by `fragmentKey`. */
export type FragmentLibrary = ReadonlyMap<string, readonly Step[]>;

export function fragmentKey({ fragment, revision }: Pick<FragmentStep, 'fragment' | 'revision'>): string {
  return `${fragment}@${revision}`;
}

export interface ExpandedRecipe {
  /** No fragment is among them. Ids of steps from a fragment begin with that of the step that names it. */
  readonly steps: readonly Step[];
  /** For each of them, the index of the step of the written recipe that it comes from. */
  readonly rowOf: readonly number[];
}

/** Stands between the id of a step that names a fragment and the id of a step inside. */
const INSIDE = '~';

/**
 * The recipe with every fragment's steps in its place. Errors at `steps.<index>.fragment` and
 * `.revision`: a fragment or revision that is not there, a fragment that contains itself.
 */
export function expandRecipe(steps: readonly Step[], library: FragmentLibrary): Result<ExpandedRecipe> {
  const expanded: Step[] = [];
  const rowOf: number[] = [];
  const faults: Fault[] = [];
  steps.forEach((step, i) => {
    const inside = expandStep(step, library, []);
    if (!inside.ok)
      return void faults.push(...inside.error.map((f) => ({ ...f, path: `steps.${i}.${f.path}` })));
    for (const own of inside.value) {
      expanded.push(own);
      rowOf.push(i);
    }
  });
  return faults.length > 0 ? refuseAll(faults) : ok({ steps: expanded, rowOf });
}

function expandStep(step: Step, library: FragmentLibrary, within: readonly string[]): Result<Step[]> {
  if (step.kind !== 'fragment') return ok([step]);
  if (within.includes(step.fragment)) {
    const way = [...within.slice(within.indexOf(step.fragment)), step.fragment].join(' in ');
    return refuseAll([{ path: 'fragment', message: `"${step.fragment}" contains itself: ${way}` }]);
  }
  const content = library.get(fragmentKey(step));
  if (!content) return refuseAll([missing(step, library)]);
  const steps: Step[] = [];
  for (const inner of content) {
    const inside = expandStep(inner, library, [...within, step.fragment]);
    if (!inside.ok) return inside;
    for (const own of inside.value) steps.push(standingIn(step, own));
  }
  return ok(steps);
}

/** A step of a fragment as it stands in the recipe that names the fragment. */
function standingIn(outer: FragmentStep, inner: Step): Step {
  return {
    ...inner,
    id: `${outer.id}${INSIDE}${inner.id}`,
    section: outer.section,
    ...(outer.disabled ? { disabled: true } : {}),
    ...(outer.alwaysRun ? { alwaysRun: true } : {}),
  };
}

function missing({ fragment, revision }: FragmentStep, library: FragmentLibrary): Fault {
  const newest = newestRevision(library, fragment);
  return newest === 0
    ? { path: 'fragment', message: `there is no fragment "${fragment}"` }
    : { path: 'revision', message: `"${fragment}" has no revision ${revision}; its newest is ${newest}` };
}

/** Number of the newest revision of a fragment, 0 when there is no such fragment. */
export function newestRevision(library: FragmentLibrary, fragment: string): number {
  let newest = 0;
  for (const key of library.keys()) {
    const at = key.lastIndexOf('@');
    if (key.slice(0, at) === fragment) newest = Math.max(newest, Number(key.slice(at + 1)));
  }
  return newest;
}

/** What stops a recipe from being built, with its fragments looked into; paths are those of the written recipe. */
export function builtRecipeFaults(steps: readonly Step[], library: FragmentLibrary): readonly Fault[] {
  const written = recipeFaults(steps);
  const expanded = expandRecipe(steps, library);
  if (!expanded.ok) return [...written, ...expanded.error];
  const { rowOf } = expanded.value;
  const inside = recipeFaults(expanded.value.steps.map((step) => ({ ...step, section: undefined })));
  const moved = inside.map(({ path, message }) => ({
    path: path.replace(/^steps\.(\d+)/, (_all, i: string) => `steps.${rowOf[Number(i)]}`),
    message,
  }));
  const known = new Set(written.map(faultText));
  return [...written, ...moved.filter((fault) => !known.has(faultText(fault)))];
}

const faultText = ({ path, message }: Fault) => `${path} ${message}`;

/**
 * What a fragment may hold. Errors at `steps.<index>`: no steps, ids that stand twice, fragments that
 * are not there or that contain this one in whatever revision.
 */
export function fragmentFaults(name: string, steps: readonly Step[], library: FragmentLibrary): Fault[] {
  if (steps.length === 0) return [{ path: 'steps', message: 'The fragment has no steps' }];
  const faults = idFaults(steps);
  steps.forEach((step, i) => {
    if (step.kind !== 'fragment') return;
    const inside = expandStep(step, library, [name]);
    if (!inside.ok) faults.push(...inside.error.map((f) => ({ ...f, path: `steps.${i}.${f.path}` })));
  });
  return faults;
}

/**
 * The written form of an expanded recipe that was changed: fragments whose steps are all as they were
 * stand as one step again. Undefined when a step inside a fragment was changed, moved or taken out,
 * which only the fragment itself can do.
 */
export function foldFragments(
  changed: readonly Step[],
  written: readonly Step[],
  library: FragmentLibrary,
): Step[] | undefined {
  const byPrefix = new Map(
    written.flatMap((step) => {
      if (step.kind !== 'fragment') return [];
      const inside = expandStep(step, library, []);
      return [[step.id, { step, inside: inside.ok ? inside.value : [] }] as const];
    }),
  );
  const folded: Step[] = [];
  const seen = new Set<string>();
  for (let i = 0; i < changed.length;) {
    const step = changed[i] as Step;
    const [prefix = ''] = step.id.split(INSIDE, 1);
    const group = step.id.includes(INSIDE) ? byPrefix.get(prefix) : undefined;
    if (!group) {
      folded.push(step);
      i += 1;
      continue;
    }
    const run = changed.slice(i, i + group.inside.length);
    if (canonicalJson(run) !== canonicalJson(group.inside)) return undefined;
    folded.push(group.step);
    seen.add(prefix);
    i += run.length;
  }
  return seen.size === byPrefix.size ? folded : undefined;
}

/** A step of a recipe that names a fragment, with how far it is behind. */
export interface FragmentUse {
  readonly step: FragmentStep;
  readonly newest: number;
  /** Revisions that came after the one it names. */
  readonly behind: number;
}

/** Where a recipe names fragments, in its order. */
export function fragmentUses(steps: readonly Step[], library: FragmentLibrary): FragmentUse[] {
  return steps.flatMap((step) => {
    if (step.kind !== 'fragment') return [];
    const newest = newestRevision(library, step.fragment);
    return [{ step, newest, behind: Math.max(0, newest - step.revision) }];
  });
}
