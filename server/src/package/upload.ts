/**
 * Receives a capture from a machine of one's own: inventories before and after with a payload
 * archive, or the payload alone with or without a registry export. Nothing is kept unless all of it is good.
 */
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Request } from 'express';
import { compareEntries, inventoryHeader, type Entry } from '@vatline/core/image/inventory';
import { parseRegistryExport } from '@vatline/core/package/registry-export';
import type { Fault } from '@vatline/core/result';
import { InputError } from '@vatline/files/input-error';
import { openInventory, saveInventory } from '@vatline/files/inventory-file';
import { unpackPayload } from '@vatline/files/payload';
import { readRegistryText } from '@vatline/files/registry-file';
import { scanTree } from '@vatline/files/scan';
import { inventoryFaults, readForm } from '../platform/form.ts';
import { invalid } from '../platform/problem.ts';
import { captureFiles } from './capture-files.ts';

export interface UploadedCapture {
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
}

const FILES = {
  before: 'before.jsonl',
  after: 'after.jsonl',
  payload: 'payload.archive',
  registry: 'registry.reg',
};
const MAX_FILE_BYTES = 8e9;

/** Reads the form into the folder. Throws a refusal with a fault at each part; the folder is then gone. */
export async function receiveCapture(request: Request, folder: string): Promise<UploadedCapture> {
  try {
    const form = await readForm(request, folder, FILES, MAX_FILE_BYTES);
    const { faults } = form;
    const has = (file: keyof typeof FILES) => form.files.has(file);
    const bothOrNone = has('before') === has('after');
    if (!has('payload')) faults.push({ path: 'payload', message: 'is missing; choose a file' });
    if (!bothOrNone)
      faults.push({
        path: has('before') ? 'after' : 'before',
        message: 'is missing; choose a file, or leave out the other inventory too',
      });
    for (const field of ['name', 'publisher', 'version'])
      if (!form.fields.get(field)?.trim()) faults.push({ path: field, message: 'is empty' });
    if (faults.length === 0 && has('before'))
      for (const which of ['before', 'after'] as const)
        faults.push(...inventoryFaults(join(folder, FILES[which]), which));
    const settings = has('registry') ? readSettings(join(folder, FILES.registry), faults) : [];
    if (faults.length === 0) faults.push(...(await checkPayload(folder)));
    if (faults.length > 0) throw invalid(faults);
    await completeInventories(folder, has('before'), settings);
    const field = (name: string) => form.fields.get(name)?.trim() ?? '';
    return { name: field('name'), publisher: field('publisher'), version: field('version') };
  } catch (error) {
    rmSync(folder, { recursive: true, force: true });
    throw error;
  }
}

function readSettings(path: string, faults: Fault[]): Entry[] {
  const read = parseRegistryExport(readRegistryText(path));
  rmSync(path);
  if (read.ok) return read.value;
  faults.push(
    ...read.error.map((fault) => ({ path: 'registry', message: `${fault.path} ${fault.message}` })),
  );
  return [];
}

/** Without inventories everything in the payload was put there; settings of an export come on top. */
async function completeInventories(
  folder: string,
  hasInventories: boolean,
  settings: readonly Entry[],
): Promise<void> {
  if (hasInventories && settings.length === 0) return;
  const files = captureFiles(folder);
  const none = inventoryHeader('nothing', 0, true);
  if (!hasInventories) saveInventory(files.before, none, []);
  const header = hasInventories ? openInventory(files.after).header : inventoryHeader('payload', 0, true);
  const entries = hasInventories
    ? [...openInventory(files.after).entries()]
    : (await scanTree(files.payload)).entries;
  saveInventory(files.after, header, [...entries, ...settings].sort(compareEntries));
}

async function checkPayload(folder: string): Promise<Fault[]> {
  const archive = join(folder, FILES.payload);
  try {
    await unpackPayload(archive, captureFiles(folder).payload);
    rmSync(archive);
    return [];
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return error.faults.map((fault) => ({
      path: 'payload',
      message: `${fault.path} ${fault.message}`.trim(),
    }));
  }
}
