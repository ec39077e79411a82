/** Heavy work on inventories, in a thread of its own. */
import { readFileSync } from 'node:fs';
import type { MessagePort } from 'node:worker_threads';
import { planDelta, type Delta } from '@vatline/core/image/delta';
import { differingLines, type DifferingLines } from '@vatline/core/inventory/differing-lines';
import { handChanges, type HandChanges } from '@vatline/core/image/hand-changes';
import type { ApplicationEntry, Entry } from '@vatline/core/inventory/entry';
import { versionBom, type BomSubject } from '@vatline/core/image/version-bom';
import { openInventory } from '@vatline/files/inventory-file';
import { must } from '@vatline/core/result';

/** An inventory on disk, or as a text; an empty text is an empty machine. */
export type InventoryText = { readonly file: string } | { readonly text: string };

export interface DifferTask {
  readonly before: InventoryText;
  readonly after: InventoryText;
  /** Told the share that is done, 0 to 1. */
  readonly port?: MessagePort;
}

export function findDifferingLines({ before, after, port }: DifferTask): DifferingLines {
  try {
    const old = textOf(before);
    port?.postMessage(0.3);
    const now = textOf(after);
    port?.postMessage(0.6);
    return must(differingLines(old, now));
  } finally {
    port?.close();
  }
}

function textOf(inventory: InventoryText): string {
  return 'file' in inventory ? readFileSync(inventory.file, 'utf8') : inventory.text;
}

/** The applications that an inventory on disk lists. */
export function applicationsIn(file: string): ApplicationEntry[] {
  const found: ApplicationEntry[] = [];
  for (const entry of openInventory(file).entries()) if (entry.kind === 'application') found.push(entry);
  return found;
}

interface DeltaTask {
  /** Inventories on disk. */
  readonly from: string;
  readonly to: string;
}

export function deltaBetween({ from, to }: DeltaTask): Delta {
  return planDelta(entriesIn(from), entriesIn(to));
}

interface BomTask {
  readonly subject: Omit<BomSubject, 'licenceOf'>;
  /** By publisher and name, with a NUL between them. */
  readonly licences: ReadonlyMap<string, string | undefined>;
  readonly file: string;
}

/** The bill of materials of a version, as JSON text. */
export function bomText({ subject, licences, file }: BomTask): string {
  const licenceOf = (publisher: string, name: string) => licences.get(`${publisher}\0${name}`);
  return JSON.stringify(versionBom({ ...subject, licenceOf }, entriesIn(file)));
}

interface HandTask {
  readonly before: readonly Entry[];
  readonly now: readonly Entry[];
}

export function changesByHand({ before, now }: HandTask): HandChanges {
  return handChanges(before, now);
}

function entriesIn(file: string): Entry[] {
  return [...openInventory(file).entries()];
}
