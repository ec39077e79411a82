/** Practice file shares: folders with real bytes in them, limits, and who may do what. */
import { createHash } from 'node:crypto';
import {
  closeSync,
  copyFileSync,
  cpSync,
  createReadStream,
  existsSync,
  mkdirSync,
  openSync,
  rmSync,
  statSync,
  truncateSync,
  writeSync,
} from 'node:fs';
import { dirname, join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { EstateError } from '../driver/operations.ts';
import type { FileShare, ShareReport, ShareRights } from '../driver/share.ts';
import type { EstateDb } from './estate-database.ts';

/**
 * Our made-up packages have some megabytes, real ones some hundreds: on a practice share each byte
 * counts for so many, so that room, money and waits are those of a library as people have it.
 */
export const PRACTICE_SCALE = 200;

export class PracticeShare implements FileShare {
  constructor(
    private readonly db: EstateDb,
    /** Each share is a folder in it. */
    private readonly folder: string,
  ) {}

  async shares(): Promise<ShareReport[]> {
    const shares = await this.db.selectFrom('share').selectAll().orderBy('price').execute();
    const used = await this.db
      .selectFrom('share_file')
      .select(({ fn }) => [
        'share',
        fn.sum<number>('size_bytes').as('bytes'),
        fn.countAll<number>().as('files'),
      ])
      .groupBy('share')
      .execute();
    return shares.map((share) => {
      const here = used.find((row) => row.share === share.name);
      return {
        name: share.name,
        capacityBytes: share.capacity_bytes,
        operationsPerSecond: share.operations,
        price: share.price,
        usedBytes: (here?.bytes ?? 0) * PRACTICE_SCALE,
        scale: PRACTICE_SCALE,
        files: here?.files ?? 0,
      };
    });
  }

  async held(share: string, path: string): Promise<number | undefined> {
    const stat = statSync(await this.place(share, path), { throwIfNoEntry: false });
    return stat?.isFile() ? stat.size : undefined;
  }

  async write(share: string, path: string, offset: number, bytes: Uint8Array): Promise<void> {
    const place = await this.place(share, path);
    const { capacityBytes, usedBytes } = await this.report(share);
    if (usedBytes + bytes.length * PRACTICE_SCALE > capacityBytes)
      throw new EstateError(
        'quota',
        `the share ${share} is full: ${capacityBytes - usedBytes} bytes are free`,
      );
    mkdirSync(dirname(place), { recursive: true });
    const there = (await this.held(share, path)) ?? 0;
    if (there < offset)
      throw new EstateError('conflict', `${path} has ${there} bytes on ${share}, not ${offset}`);
    if (there > offset) truncateSync(place, offset);
    const handle = openSync(place, there === 0 ? 'w' : 'r+');
    try {
      writeSync(handle, bytes, 0, bytes.length, offset);
    } finally {
      closeSync(handle);
    }
    await this.note(share, path, offset + bytes.length);
  }

  async digest(share: string, path: string): Promise<string> {
    const place = await this.place(share, path);
    if (!existsSync(place)) throw new EstateError('not found', `${share} has no ${path}`);
    const hash = createHash('sha256');
    await pipeline(createReadStream(place), hash);
    return hash.digest('hex');
  }

  async remove(_key: string, share: string, path: string): Promise<void> {
    rmSync(await this.place(share, path), { recursive: true, force: true });
    await this.db
      .deleteFrom('share_file')
      .where('share', '=', share)
      .where((eb) => eb.or([eb('path', '=', path), eb('path', 'like', `${path}/%`)]))
      .execute();
  }

  async rights(share: string): Promise<ShareRights> {
    const row = await this.row(share);
    return JSON.parse(row.rights_json) as ShareRights;
  }

  async setRights(_key: string, share: string, rights: ShareRights): Promise<void> {
    await this.row(share);
    await this.db
      .updateTable('share')
      .set({ rights_json: JSON.stringify(rights) })
      .where('name', '=', share)
      .execute();
  }

  /** Makes a practice share larger or smaller. */
  async setCapacity(share: string, capacity_bytes: number): Promise<void> {
    await this.db.updateTable('share').set({ capacity_bytes }).where('name', '=', share).execute();
  }

  async latencyMs(share: string): Promise<number> {
    return (await this.row(share)).latency_ms;
  }

  /** Where a host would read a container. Throws where it is not, or hosts may not read. */
  async pathForHosts(share: string, path: string): Promise<string> {
    const { hosts } = await this.rights(share);
    if (hosts === 'nothing') throw new EstateError('permission', `hosts may not read the share ${share}`);
    const place = await this.place(share, path);
    if (!existsSync(place)) throw new EstateError('not found', `the share ${share} has no container ${path}`);
    return place;
  }

  /** Puts a container there as if it had been uploaded before the demo began. */
  async seed(share: string, path: string, from: string): Promise<void> {
    const place = await this.place(share, path);
    mkdirSync(dirname(place), { recursive: true });
    if (statSync(from).isDirectory()) cpSync(from, place, { recursive: true });
    else copyFileSync(from, place);
    await this.note(share, path, statSync(place).size);
  }

  /** When a file was changed last; 0 where there is none. */
  changedAt(place: string): number {
    return statSync(place, { throwIfNoEntry: false })?.mtimeMs ?? 0;
  }

  private async note(share: string, path: string, size_bytes: number): Promise<void> {
    await this.db
      .insertInto('share_file')
      .values({ share, path, size_bytes })
      .onConflict((c) => c.columns(['share', 'path']).doUpdateSet({ size_bytes }))
      .execute();
  }

  private async place(share: string, path: string): Promise<string> {
    await this.row(share);
    if (path.split('/').some((part) => part === '..' || part === ''))
      throw new EstateError('permission', `${path} leads out of the share`);
    return join(this.folder, share, path);
  }

  private async row(share: string) {
    const row = await this.db.selectFrom('share').selectAll().where('name', '=', share).executeTakeFirst();
    if (!row) throw new EstateError('not found', `there is no share ${share}`);
    return row;
  }

  private async report(share: string): Promise<ShareReport> {
    const report = (await this.shares()).find((row) => row.name === share);
    if (!report) throw new EstateError('not found', `there is no share ${share}`);
    return report;
  }
}
