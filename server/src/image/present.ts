/** Image lines as the API gives them. */
import { sourcesSchema, type ImageVersion, type LineDetail, type LineSummary } from '@vatline/contract/image';
import { filledSheets } from '../option-sheet/store.ts';
import type { Parts } from '../platform/parts.ts';
import { machineFacts, poolsOf } from './line-facts.ts';
import type { ImageStore } from './store.ts';
import type { LineRow } from './tables.ts';

type PartsOfLines = Pick<Parts, 'db' | 'estate' | 'jobs' | 'workers'>;

export async function lineSummaries(parts: Pick<Parts, 'jobs'>, images: ImageStore): Promise<LineSummary[]> {
  const versions = await images.versions.all();
  return Promise.all(
    (await images.lines.all()).map((line) =>
      summary(
        parts,
        images,
        line,
        versions.filter((version) => version.lineId === line.id),
      ),
    ),
  );
}

export async function lineDetail(parts: PartsOfLines, images: ImageStore, id: string): Promise<LineDetail> {
  const line = await images.lines.get(id);
  const versions = (await images.versions.all()).filter((version) => version.lineId === id);
  const recipe = await images.recipes.get(id, line.recipe_revision);
  const lastRevision = versions.find((version) => version.recipeRevision > 0)?.recipeRevision;
  const lastCut = lastRevision === undefined ? undefined : await images.recipes.get(id, lastRevision);
  const library = await images.recipes.library();
  return {
    ...(await summary(parts, images, line, versions)),
    hardware: recipe.hardware,
    recipe: recipe.steps,
    machine: (await machineFacts(parts, line)) ?? null,
    fragments: Object.fromEntries([...library].map(([key, steps]) => [key, [...steps]])),
    checkpoints: await images.checkpoints.kept(id),
    checkpointBudgetBytes: line.checkpoint_budget_bytes,
    runs: await images.runs.of(id),
    handNotes: await images.handNotes.of(id),
    lastCutRecipe: lastCut?.steps ?? [],
    jobs: await parts.jobs.newest(`line:${id}`, 20),
    sources: sourcesSchema.parse(await parts.estate.sources.current()),
    optionSheets: await filledSheets(parts.db),
    pools: await poolsOf(parts, id),
    checksOff: await images.lines.checksOff(id),
    keepVersions: line.keep_versions,
  };
}

async function summary(
  parts: Pick<Parts, 'jobs'>,
  images: ImageStore,
  line: LineRow,
  versions: ImageVersion[],
): Promise<LineSummary> {
  const { steps } = await images.recipes.get(line.id, line.recipe_revision);
  return {
    id: line.id,
    name: line.name,
    purpose: line.purpose,
    recipeRevision: line.recipe_revision,
    steps: steps.length,
    versions,
    activeJob: await parts.jobs.activeOn(`line:${line.id}`),
    forkedFrom: line.forked_from,
  };
}
