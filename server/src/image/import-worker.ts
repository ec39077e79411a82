/** Reading versions that were made elsewhere, run in the worker pool for what comes from outside. */
import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { sizeOf } from '@vatline/core/image/compare-versions';
import type { Hardware } from '@vatline/core/image/hardware';
import type { ApplicationEntry, Entry } from '@vatline/core/inventory/entry';
import { readOvf } from '@vatline/core/image/ovf/read-ovf';
import type { Fault } from '@vatline/core/result';
import { InputError } from '@vatline/files/input-error';
import { openInventory, saveInventory } from '@vatline/files/inventory-file';
import { atField } from '../platform/problem.ts';

export interface ImportTask {
  readonly inventory: string;
  readonly ovf: string | undefined;
  /** Where the inventories of versions are kept. */
  readonly keptIn: string;
}

/** What is kept of an inventory: its file, and what is asked of it again and again. */
export interface KeptInventory {
  /** Name of the file, after the digest of its entries. */
  readonly name: string;
  readonly entries: number;
  readonly sizeBytes: number;
  readonly applications: readonly ApplicationEntry[];
}

export interface ReadImport {
  readonly inventory: KeptInventory;
  readonly hardware: Hardware | undefined;
}

/** Checks an uploaded inventory and descriptor and keeps the inventory; or gives what is wrong, at its field. */
export function readImport({ inventory, ovf, keptIn }: ImportTask): ReadImport | Fault[] {
  const faults: Fault[] = [];
  const entries = entriesOf(inventory, faults);
  if (faults.length === 0 && entries.length === 0)
    faults.push({ path: 'inventory', message: 'holds no entry' });
  const machine = ovf === undefined ? undefined : readOvf(readFileSync(ovf, 'utf8'));
  if (machine && !machine.ok) faults.push(...atField('ovf', machine.error));
  if (faults.length > 0) return faults;
  return {
    inventory: keepInventory(inventory, entries, keptIn),
    hardware: machine?.ok ? machine.value.hardware : undefined,
  };
}

function entriesOf(file: string, faults: Fault[]): Entry[] {
  try {
    return [...openInventory(file).entries()];
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    faults.push(...atField('inventory', error.faults));
    return [];
  }
}

function keepInventory(file: string, entries: readonly Entry[], keptIn: string): KeptInventory {
  const hash = createHash('sha256');
  for (const entry of entries) hash.update(JSON.stringify(entry) + '\n');
  const name = `${hash.digest('hex')}.jsonl`;
  saveInventory(join(keptIn, name), openInventory(file).header, entries);
  return {
    name,
    entries: entries.length,
    sizeBytes: sizeOf(entries),
    applications: entries.filter((entry) => entry.kind === 'application'),
  };
}
