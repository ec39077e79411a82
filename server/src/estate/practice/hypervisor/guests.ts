/** What is on disks: applications behave by their traits, and some images were made elsewhere. */
import type { Entry } from '@vatline/core/inventory/entry';
import type { EstateDb } from '../estate-database.ts';
import { guestDigest } from '../guest-digest.ts';
import { guestInventory, type Guest, type Traits } from './guest.ts';
import type { ImportedImages } from './imported-images.ts';

/** Guests that are kept parsed; hosts of one image are asked one after the other. */
const MOST_PARSED = 50;

export class Guests {
  /** By digest: what has a digest never changes. */
  private readonly parsed = new Map<string, Guest>();

  constructor(
    private readonly db: EstateDb,
    private readonly imported: ImportedImages,
  ) {}

  /** What is on a machine, in a snapshot or in an image. */
  async of({ guest: digest }: { readonly guest: string }): Promise<Guest> {
    const known = this.parsed.get(digest);
    if (known) return known;
    const { json } = await this.db
      .selectFrom('guest')
      .select('json')
      .where('digest', '=', digest)
      .executeTakeFirstOrThrow();
    const guest = JSON.parse(json) as Guest;
    this.parsed.set(digest, guest);
    const [oldest] = this.parsed.keys();
    if (this.parsed.size > MOST_PARSED && oldest !== undefined) this.parsed.delete(oldest);
    return guest;
  }

  /** Writes a guest down, once, and gives its digest. */
  async keep(guest: Guest): Promise<string> {
    const json = JSON.stringify(guest);
    const digest = guestDigest(json);
    await this.db
      .insertInto('guest')
      .values({ digest, json })
      .onConflict((c) => c.doNothing())
      .execute();
    return digest;
  }

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
