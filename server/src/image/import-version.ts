/** Versions made elsewhere: an inventory, and the machine's hardware as OVF, become a version of a line. */
import { imageFileEndpoints, MOST_OVF_BYTES } from '@vatline/contract/image';
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Request } from 'express';
import { change } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import { readForm } from '../platform/form.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import { workOf } from '../platform/workers.ts';
import type * as importFunctions from './import-worker.ts';
import type { ReadImport } from './import-worker.ts';
import { lineNote } from './line-note.ts';
import type { ImageStore } from './store.ts';

const importWork = workOf<typeof importFunctions>('image/import-worker.js', 'intake');

const FILES = {
  // 2,000,000 entries, the most that are read, have half of this.
  inventory: { name: 'inventory.jsonl', maxBytes: 1e9 },
  ovf: { name: 'machine.ovf', maxBytes: MOST_OVF_BYTES },
};

interface Import extends ReadImport {
  readonly note: string;
}

/** `POST /lines/:id/imports`, a form with `inventory`, `ovf` (may be left out) and `note`. */
export function importRoutes(door: Door, parts: Parts, store: ImageStore): void {
  const { estate } = parts;
  door.serveRaw(imageFileEndpoints.import, async ({ params, request }) => {
    const line = await store.lines.get(params.id);
    const { inventory, hardware, note } = await receive(request, parts, store);
    const { sizeBytes } = inventory;
    const key = newId('import');
    const inventoryFile = store.versions.inventoryFile({ inventory: inventory.name });
    const imageId = await estate.hypervisor.importImage(key, { inventoryFile, sizeBytes });
    const at = estate.clock.now();
    const recipe = await store.recipes.get(line.id, line.recipe_revision);
    const version = await change(
      parts,
      () =>
        store.versions.add({
          lineId: line.id,
          note,
          recipeRevision: 0,
          imageId,
          inventory: { file: inventory.name, applications: inventory.applications },
          sizeBytes,
          jobId: key,
          hardware: hardware ?? recipe.hardware,
          at,
        }),
      ({ number }) =>
        lineNote(
          line,
          ` ${number} was brought in from elsewhere, ${inventory.entries.toLocaleString('en-GB')} entries`,
          'versions',
        ),
    );
    return { id: version.id, number: version.number };
  });
}

async function receive(request: Request, parts: Parts, store: ImageStore): Promise<Import> {
  const folder = await mkdtemp(join(tmpdir(), 'vatline-import-'));
  try {
    const { files, fields, faults } = await readForm(request, folder, FILES);
    const inventory = files.get('inventory');
    if (!inventory) faults.push({ path: 'inventory', message: 'is missing; choose a file' });
    if (faults.length > 0 || !inventory) throw invalid(faults);
    const task = { inventory, ovf: files.get('ovf'), keptIn: store.versions.inventoryFolder };
    const read = await importWork(parts, 'readImport', task);
    if (!('inventory' in read)) throw invalid(read);
    return { ...read, note: fields.get('note')?.trim() ?? '' };
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
