/** Heavy work on inventories, in a thread of its own. */
import { readFileSync } from 'node:fs';
import type { MessagePort } from 'node:worker_threads';
import { differingLines, type DifferingLines } from '@vatline/core/image/differing-lines';
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
