/** Image lines over HTTP: beginning one, its recipe, and what stands on it. */
import { imageEndpoints } from '@vatline/contract/image';
import { builtRecipeFaults } from '@vatline/core/image/fragments';
import { change, DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import { refuseStale } from '../platform/stale.ts';
import { hostsOf } from './line-facts.ts';
import { lineNote } from './line-note.ts';
import { lineDetail, lineSummaries } from './present.ts';
import type { ImageStore } from './store.ts';

export function lineRoutes(door: Door, parts: Parts, store: ImageStore): void {
  const { estate } = parts;

  door.serve(imageEndpoints.lines, () => lineSummaries(parts, store));
  door.serve(imageEndpoints.line, ({ params }) => lineDetail(parts, store, params.id));

  door.serve(imageEndpoints.createLine, async ({ body }) => {
    const { fromVersion, ...line } = body;
    const fork = fromVersion === undefined ? {} : await forkOf(store, fromVersion);
    return change(
      parts,
      async () => {
        if ((await store.lines.names()).includes(body.name))
          throw conflict(`There is an image line named ${body.name} already`, 'name');
        return { id: await store.lines.create({ ...line, ...fork, at: estate.clock.now() }) };
      },
      ({ id }) => lineNote({ id, name: body.name }, ' was begun'),
    );
  });

  door.serve(imageEndpoints.saveRecipe, async ({ params, body }) => {
    const line = await store.lines.get(params.id);
    refuseStale('recipe', line.name, line.recipe_revision, body.basedOn);
    const faults = builtRecipeFaults(body.steps, await store.recipes.library());
    if (faults.length > 0) throw invalid(faults);
    const hardware = body.hardware ?? (await store.recipes.get(line.id, line.recipe_revision)).hardware;
    const at = estate.clock.now();
    return change(
      parts,
      async () => ({ revision: await store.recipes.add(line.id, body.steps, hardware, at, body.basedOn) }),
      ({ revision }) => lineNote(line, `: recipe ${revision} was kept`),
    );
  });

  door.serve(imageEndpoints.hosts, async ({ params }) =>
    hostsOf(parts, (await store.lines.get(params.id)).id),
  );

  door.serve(imageEndpoints.revisions, async ({ params }) =>
    store.recipes.revisions((await store.lines.get(params.id)).id),
  );

  door.serve(imageEndpoints.setCheckpointBudget, async ({ params, body }) => {
    const line = await store.lines.get(params.id);
    const gigabytes = Math.round(body.bytes / 1e9).toLocaleString('en-GB');
    return change(
      parts,
      async () => {
        await store.checkpoints.setBudget(line.id, body.bytes);
        return DONE;
      },
      () => lineNote(line, `: checkpoints may take ${gigabytes} GB`),
    );
  });
}

/** What a line that is started from a version begins with. */
async function forkOf(store: ImageStore, versionId: string) {
  const version = await store.versions.get(versionId);
  if (version.recipe_revision === 0)
    throw invalid([
      {
        path: 'fromVersion',
        message: 'was made elsewhere, so it has no recipe that a line could begin with',
      },
    ]);
  const { steps, hardware } = await store.recipes.get(version.line_id, version.recipe_revision);
  return { steps, hardware, forkedFrom: versionId };
}
