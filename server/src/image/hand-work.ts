/** What people do to a build machine by hand: their notes, and on a practice estate the doing itself. */
import { handKinds, handWorkEndpoints } from '@vatline/contract/hand-work';
import type { Step } from '@vatline/core/image/recipe';
import type { HandChange } from '../estate/control.ts';
import { EstateError } from '../estate/driver/operations.ts';
import { change, DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import { lineNote } from './line-note.ts';
import type { ImageStore } from './store.ts';

export function handWorkRoutes(door: Door, parts: Parts, store: ImageStore): void {
  door.serve(handWorkEndpoints.note, async ({ params, body }) => {
    const line = await store.lines.get(params.id);
    return change(
      parts,
      async () => {
        await store.handNotes.add(line.id, body.text, parts.estate.clock.now());
        return DONE;
      },
      () => lineNote(line, `, by hand: ${body.text}`),
    );
  });

  door.serve(handWorkEndpoints.change, async ({ params, body }) => {
    const { control } = parts;
    if (!control) throw conflict('This machine is real; open its screen to change it');
    const line = await store.lines.get(params.id);
    if (!line.machine_id) throw conflict('There is no build machine yet; build first');
    if (await parts.jobs.activeOn(`line:${line.id}`)) throw conflict('A job is at work on the machine');
    if (body.kind === 'do' && !isByHand(body.step))
      throw invalid([
        { path: 'step.kind', message: `is not done by hand here; choose one of ${handKinds.join(', ')}` },
      ]);
    await control.byHand(line.machine_id, body as HandChange).catch((error: unknown) => {
      throw error instanceof EstateError ? conflict(error.message) : error;
    });
    return DONE;
  });
}

function isByHand(step: Step): boolean {
  return handKinds.some((kind) => kind === step.kind);
}
