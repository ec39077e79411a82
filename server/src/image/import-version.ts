/** Versions made elsewhere: an inventory, and the machine's hardware as OVF, become a version of a line. */
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Request, Router } from 'express';
import { sizeOf } from '@vatline/core/image/compare-versions';
import type { Hardware } from '@vatline/core/image/hardware';
import type { Entry } from '@vatline/core/image/inventory';
import { readOvf } from '@vatline/core/image/ovf/read-ovf';
import { openInventory } from '@vatline/files/inventory-file';
import { inventoryFaults, readForm } from '../platform/form.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import type { ImageStore } from './store.ts';

const MAX_FILE_BYTES = 1e9;
const FILES = { inventory: 'inventory.jsonl', ovf: 'machine.ovf' };

interface Import {
  readonly entries: readonly Entry[];
  readonly hardware: Hardware | undefined;
  readonly note: string;
}

/** `POST /lines/:id/imports`, a form with `inventory`, `ovf` (may be left out) and `note`. */
export function importRoutes(router: Router, parts: Parts, store: ImageStore): void {
  const { estate, journal } = parts;
  router.post('/lines/:id/imports', async (request, response) => {
    const line = await store.line(request.params.id);
    const { entries, hardware, note } = await receive(request);
    const sizeBytes = sizeOf(entries);
    const key = newId('import');
    const imageId = await estate.hypervisor.importImage(key, { entries, sizeBytes });
    const at = estate.clock.now();
    const recipe = await store.recipe(line.id, line.recipe_revision);
    const version = await store.addVersion({
      lineId: line.id,
      note,
      recipeRevision: 0,
      imageId,
      entries,
      sizeBytes,
      jobId: key,
      hardware: hardware ?? recipe.hardware,
      at,
    });
    await journal.note({
      at,
      kind: 'image',
      subject: `line:${line.id}`,
      text: `${line.name} ${version.number} was brought in from elsewhere, ${entries.length.toLocaleString('en-GB')} entries`,
      link: `/images/${line.id}/versions`,
    });
    journal.tell('images');
    response.json({ id: version.id, number: version.number });
  });
}

async function receive(request: Request): Promise<Import> {
  const folder = mkdtempSync(join(tmpdir(), 'vatline-import-'));
  try {
    const { files, fields, faults } = await readForm(request, folder, FILES, MAX_FILE_BYTES);
    const inventory = files.get('inventory');
    if (!inventory) faults.push({ path: 'inventory', message: 'is missing; choose a file' });
    else faults.push(...inventoryFaults(inventory, 'inventory'));
    const ovf = files.get('ovf');
    const machine = ovf === undefined ? undefined : readOvf(readFileSync(ovf, 'utf8'));
    if (machine && !machine.ok)
      faults.push(...machine.error.map((f) => ({ path: 'ovf', message: `${f.path} ${f.message}`.trim() })));
    if (faults.length > 0 || !inventory) throw invalid(faults);
    const entries = [...openInventory(inventory).entries()];
    if (entries.length === 0) throw invalid([{ path: 'inventory', message: 'holds no entry' }]);
    return {
      entries,
      hardware: machine?.ok ? machine.value.hardware : undefined,
      note: fields.get('note')?.trim() ?? '',
    };
  } finally {
    rmSync(folder, { recursive: true, force: true });
  }
}
