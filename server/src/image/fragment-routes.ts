/** Fragments over HTTP: every revision with where it is used, and keeping the next one. */
import { fragmentEndpoints, type Fragment } from '@vatline/contract/fragment';
import { fragmentFaults, fragmentUses, newestRevision } from '@vatline/core/image/fragments';
import { change } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import { refuseStale } from '../platform/stale.ts';
import { addFragmentRevision, fragmentRevisions } from './fragment-store.ts';
import type { ImageStore } from './store.ts';

export function fragmentRoutes(door: Door, parts: Parts, store: ImageStore): void {
  door.serve(fragmentEndpoints.list, async () => {
    const revisions = await fragmentRevisions(parts.db);
    const uses = await linesUsing(store);
    const names = [...new Set(revisions.map((row) => row.name))];
    return names.map((name) => ({
      name,
      revisions: revisions.filter((row) => row.name === name).map(({ name: _name, ...row }) => row),
      usedBy: uses.filter((row) => row.name === name).map((row) => row.use),
    }));
  });

  door.serve(fragmentEndpoints.keep, async ({ params: { name }, body: { steps, note, basedOn } }) => {
    const library = await store.recipes.library();
    refuseStale('fragment', name, newestRevision(library, name), basedOn);
    const faults = fragmentFaults(name, steps, library);
    if (faults.length > 0) throw invalid(faults);
    const at = parts.estate.clock.now();
    return change(
      parts,
      async () => ({
        revision: await addFragmentRevision(parts.db, { name, steps, note, at }, basedOn),
      }),
      ({ revision }) => ({
        kind: 'image',
        subject: 'fragments',
        text: `Fragment ${name}: revision ${revision} was kept`,
        link: `/images/fragments/${encodeURIComponent(name)}`,
      }),
    );
  });
}

interface NamedUse {
  readonly name: string;
  readonly use: Fragment['usedBy'][number];
}

async function linesUsing(store: ImageStore): Promise<NamedUse[]> {
  const library = await store.recipes.library();
  return (await store.recipes.current()).flatMap(({ lineId, line, steps }) =>
    fragmentUses(steps, library).map(({ step, behind }) => ({
      name: step.fragment,
      use: { lineId, line, revision: step.revision, behind },
    })),
  );
}
