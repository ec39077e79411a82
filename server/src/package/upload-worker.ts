/** Reading uploaded captures, run in the worker pool for what comes from outside. */
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import { compareEntries, type Entry } from '@vatline/core/inventory/entry';
import { inventoryHeader } from '@vatline/core/inventory/text';
import type { Fault } from '@vatline/core/result';
import { InputError } from '@vatline/files/input-error';
import { openInventory, saveInventory } from '@vatline/files/inventory-file';
import { unpackPayload } from '@vatline/files/payload';
import { readRegistryFile } from '@vatline/files/registry-file';
import { scanTree } from '@vatline/files/scan';
import { atField } from '../platform/problem.ts';
import { captureFiles } from './capture-files.ts';

/** What the files of an uploaded capture are called until they are read. */
export const uploadedNames = {
  before: 'before.jsonl',
  after: 'after.jsonl',
  payload: 'payload.archive',
  registry: 'registry.reg',
} as const;

export interface CaptureTask {
  readonly folder: string;
  readonly hasInventories: boolean;
  readonly hasRegistry: boolean;
}

/**
 * Checks the files of an upload and makes them the files of a capture: the payload unpacked, both
 * inventories there. Gives the faults at their fields; the folder is of no use then.
 */
export async function readUploadedCapture(task: CaptureTask): Promise<Fault[]> {
  const { folder, hasInventories } = task;
  const faults: Fault[] = [];
  if (hasInventories)
    for (const which of ['before', 'after'] as const)
      faults.push(...inventoryFaults(join(folder, uploadedNames[which]), which));
  const settings = task.hasRegistry ? readSettings(join(folder, uploadedNames.registry), faults) : [];
  if (faults.length === 0) faults.push(...(await unpackInto(folder)));
  if (faults.length === 0) await completeInventories(folder, hasInventories, settings);
  return faults;
}

function inventoryFaults(file: string, field: string): Fault[] {
  return at(field, () => {
    for (const _entry of openInventory(file).entries()) continue;
    return [];
  });
}

function readSettings(path: string, faults: Fault[]): Entry[] {
  const entries: Entry[] = [];
  const found = at('registry', () => {
    const read = readRegistryFile(path);
    if (!read.ok) return read.error;
    for (const entry of read.value) entries.push(entry);
    return [];
  });
  rmSync(path);
  faults.push(...found);
  return entries;
}

/** Faults of a part, at its field; bad input that is thrown counts as well. */
function at(field: string, read: () => readonly Fault[]): Fault[] {
  try {
    return atField(field, read());
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return atField(field, error.faults);
  }
}

async function unpackInto(folder: string): Promise<Fault[]> {
  const archive = join(folder, uploadedNames.payload);
  try {
    await unpackPayload(archive, captureFiles(folder).payload);
    rmSync(archive);
    return [];
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return atField('payload', error.faults);
  }
}

/** Without inventories everything in the payload was put there; settings of an export come on top. */
async function completeInventories(
  folder: string,
  hasInventories: boolean,
  settings: readonly Entry[],
): Promise<void> {
  if (hasInventories && settings.length === 0) return;
  const files = captureFiles(folder);
  if (!hasInventories) saveInventory(files.before, inventoryHeader('nothing', 0, true), []);
  const header = hasInventories ? openInventory(files.after).header : inventoryHeader('payload', 0, true);
  const entries = hasInventories
    ? [...openInventory(files.after).entries()]
    : [...(await scanTree(files.payload)).entries];
  for (const entry of settings) entries.push(entry);
  saveInventory(files.after, header, entries.sort(compareEntries));
}
