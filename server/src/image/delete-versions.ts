/** Deleting versions that nothing needs: the captured image and the inventory go, the row stays for history. */
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import type { JobKind } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import { forgetApplications } from './application-index.ts';
import { dropLayers } from './delta-job.ts';
import type { ImageStore } from './store.ts';
import type { VersionRow } from './tables.ts';

export interface DeleteInput {
  readonly versions: readonly { readonly id: string; readonly number: number }[];
}

export function deleteVersionsJob(parts: Parts, store: ImageStore): JobKind<DeleteInput> {
  return {
    kind: 'delete versions',
    paced: true,
    steps: ({ versions }) =>
      Promise.resolve(
        versions.map(({ id, number }) => ({
          title: `Delete version ${number}`,
          run: async (context) => {
            const version = await store.versions.get(id);
            if (version.gone_ms !== null) return;
            const needs = (await store.versions.neededBy()).get(id);
            if (needs) throw conflict(`version ${number} is needed: ${needs.join(', ')}`);
            await parts.estate.hypervisor.deleteImage(`${context.jobId}/${id}`, version.image_id);
            await store.versions.markGone(id, parts.estate.clock.now());
            await dropInventory(parts, version);
            await forgetApplications(parts.db, id);
            dropLayers(parts, id);
            await context.log(`version ${number}: ${(version.size_bytes / 1e9).toFixed(1)} GB freed`);
            parts.journal.tell('line');
          },
        })),
      ),
  };
}

/** Two versions of equal content share the file of their inventory. */
async function dropInventory({ db, dataFolder }: Parts, version: VersionRow): Promise<void> {
  const other = await db
    .selectFrom('image_version')
    .select('id')
    .where('inventory', '=', version.inventory)
    .where('gone_ms', 'is', null)
    .executeTakeFirst();
  if (!other) rmSync(join(dataFolder, 'inventories', version.inventory), { force: true });
}
