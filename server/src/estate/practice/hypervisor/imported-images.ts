/** What was on machines made elsewhere: inventories in files, read a little at a time so that nobody waits. */
import { copyFileSync, mkdirSync } from 'node:fs';
import { rename } from 'node:fs/promises';
import { join } from 'node:path';
import { setImmediate as nextTurn } from 'node:timers/promises';
import type { Entry } from '@vatline/core/inventory/entry';
import { temporaryName } from '@vatline/files/atomic';
import { openInventory } from '@vatline/files/inventory-file';
import type { Guest } from './guest.ts';

/** Entries that are read before others get a turn: about ten milliseconds. */
const ENTRIES_A_TURN = 2_000;

export class ImportedImages {
  private last: { readonly file: string; readonly entries: Promise<readonly Entry[]> } | undefined;

  constructor(private readonly folder: string) {}

  /** Keeps a copy of an inventory; gives its name. Again does nothing more. */
  async keep(imageId: string, inventoryFile: string): Promise<string> {
    mkdirSync(this.folder, { recursive: true });
    const name = `${imageId}.jsonl`;
    const temporary = temporaryName(join(this.folder, name));
    copyFileSync(inventoryFile, temporary);
    await rename(temporary, join(this.folder, name));
    return name;
  }

  /** What was on a guest when it came; nothing of one that was built here. */
  async entriesOf(guest: Guest): Promise<readonly Entry[]> {
    if (!guest.imported) return [];
    const { file } = guest.imported;
    // Hosts of one image are asked one after the other.
    if (this.last?.file !== file) this.last = { file, entries: this.read(file) };
    return this.last.entries;
  }

  private async read(file: string): Promise<readonly Entry[]> {
    const entries: Entry[] = [];
    for (const entry of openInventory(join(this.folder, file)).entries())
      if (entries.push(entry) % ENTRIES_A_TURN === 0) await nextTurn();
    return entries;
  }
}
