/** What is on disks: applications behave by their traits, and some images were made elsewhere. */
import type { Entry } from '@vatline/core/inventory/entry';
import type { EstateDb } from '../estate-database.ts';
import { guestInventory, type Guest, type Traits } from './guest.ts';
import type { ImportedImages } from './imported-images.ts';

export function guestOf(row: { readonly guest_json: string }): Guest {
  return JSON.parse(row.guest_json) as Guest;
}

export class Guests {
  constructor(
    private readonly db: EstateDb,
    private readonly imported: ImportedImages,
  ) {}

  async traits(): Promise<ReadonlyMap<string, Traits>> {
    const rows = await this.db.selectFrom('trait').selectAll().execute();
    return new Map(rows.map((row) => [row.application, JSON.parse(row.json) as Traits]));
  }

  async inventoryOf(guest: Guest): Promise<Entry[]> {
    return guestInventory(guest, await this.traits(), await this.imported.entriesOf(guest));
  }

  /** Keeps the inventory of an image that was made elsewhere, and gives its guest. */
  async imports(
    imageId: string,
    inventoryFile: string,
    diskBytes: number,
  ): Promise<NonNullable<Guest['imported']>> {
    return { file: await this.imported.keep(imageId, inventoryFile), diskBytes };
  }
}
