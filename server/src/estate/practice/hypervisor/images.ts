/** Captured images, those that were made elsewhere, and the bytes of their files. */
import type { CapturedImage, ImportedImage } from '../../driver/hypervisor.ts';
import { EstateError, type Operation } from '../../driver/operations.ts';
import { contentOf } from './content.ts';
import type { EstateDb, EstateTables } from '../estate-database.ts';
import { diskBytesOf, emptyGuest, type Guest } from './guest.ts';
import type { PracticeOperations } from '../operations.ts';
import type { Guests } from './guests.ts';
import type { Machines } from './machines.ts';
import { idOfImage } from './made-id.ts';

export class Images {
  private lastRead: { readonly imageId: string; readonly files: ReadonlyMap<string, string> } | undefined;

  constructor(
    private readonly db: EstateDb,
    operations: PracticeOperations,
    private readonly guests: Guests,
    private readonly machines: Machines,
  ) {
    operations.effect('capture', (a: { id: string; imageId: string }) => this.endCapture(a));
  }

  capture(key: string, machineId: string): Promise<Operation> {
    return this.machines.begin(key, 'capture', machineId, { id: machineId, imageId: idOfImage(key) });
  }

  async captured(id: string): Promise<CapturedImage | undefined> {
    const row = await this.row(id);
    if (!row) return undefined;
    return {
      id,
      sizeBytes: row.size_bytes,
      entries: await this.guests.inventoryOf(await this.guests.of(row)),
    };
  }

  async import(key: string, { inventoryFile, sizeBytes }: ImportedImage): Promise<string> {
    const id = idOfImage(key);
    const imported = await this.guests.imports(id, inventoryFile, sizeBytes);
    await this.insert(id, { ...emptyGuest, imported }, sizeBytes);
    return id;
  }

  async delete(id: string): Promise<void> {
    await this.db.deleteFrom('image').where('id', '=', id).execute();
  }

  async readFile(imageId: string, path: string): Promise<Iterable<Uint8Array>> {
    const digest = (await this.filesOf(imageId)).get(path);
    if (!digest) throw new EstateError('not found', `the image has no file ${path}`);
    const content = contentOf(digest);
    if (!content)
      throw new EstateError(
        'not found',
        `the practice estate never had the bytes of ${path}, only its digest`,
      );
    return content;
  }

  async need(id: string): Promise<EstateTables['image']> {
    const row = await this.row(id);
    if (!row) throw noImage(id);
    return row;
  }

  async insert(id: string, guest: Guest, size_bytes: number): Promise<void> {
    await this.db
      .insertInto('image')
      .values({ id, guest: await this.guests.keep(guest), size_bytes })
      .onConflict((c) => c.doNothing())
      .execute();
  }

  private row(id: string): Promise<EstateTables['image'] | undefined> {
    return this.db.selectFrom('image').selectAll().where('id', '=', id).executeTakeFirst();
  }

  /** Digests of an image's files by path. Images never change, and files are read one after the other. */
  private async filesOf(imageId: string): Promise<ReadonlyMap<string, string>> {
    if (this.lastRead?.imageId === imageId) return this.lastRead.files;
    const image = await this.captured(imageId);
    if (!image) throw noImage(imageId);
    const files = new Map(
      image.entries.flatMap((entry) => (entry.kind === 'file' ? [[entry.path, entry.sha256]] : [])),
    );
    this.lastRead = { imageId, files };
    return files;
  }

  private async endCapture(a: { id: string; imageId: string }): Promise<string> {
    const guest = await this.guests.of(await this.machines.need(a.id));
    await this.insert(a.imageId, guest, diskBytesOf(guest, await this.guests.inventoryOf(guest)));
    return a.imageId;
  }
}

function noImage(id: string): EstateError {
  return new EstateError('not found', `the hypervisor has no image ${id}`);
}
