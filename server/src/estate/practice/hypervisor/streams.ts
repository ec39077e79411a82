/** What hosts stream from the practice stores, and how their scratch disks fill. */
import { sql } from 'kysely';
import { gigabytes } from '@vatline/core/gigabytes';
import { DAY, type Instant } from '@vatline/core/time/instant';
import { EstateError } from '../../driver/operations.ts';
import type { HostStream, StreamedImage, StreamingStoreReport } from '../../driver/streaming.ts';
import type { EstateDb } from '../estate-database.ts';
import { growthOf } from './disks.ts';

export class Streams {
  constructor(
    private readonly db: EstateDb,
    private readonly now: () => Instant,
    private readonly seed: string,
  ) {}

  async stores(): Promise<StreamingStoreReport[]> {
    const rows = await this.db.selectFrom('streaming_store').selectAll().orderBy('name').execute();
    return Promise.all(
      rows.map(async ({ name, site, streams, capacity_bytes, price }) => {
        const images = await this.imagesOf(name);
        return {
          name,
          site,
          streams: { total: streams, used: await this.running(name) },
          hosts: await this.hostsOf(name),
          capacityBytes: capacity_bytes,
          usedBytes: images.reduce((sum, image) => sum + image.bytes, 0),
          price,
          images,
        };
      }),
    );
  }

  async of(hosts: readonly string[]): Promise<Map<string, HostStream>> {
    const rows = await this.db
      .selectFrom('stream')
      .innerJoin('machine', 'machine.id', 'machine_id')
      .select([
        'machine.name',
        'machine.power',
        'store',
        'now_image',
        'next_image',
        'scratch_bytes',
        'fills_bytes_per_day',
        'started_ms',
      ])
      .where('machine.name', 'in', sql<string>`(select value from json_each(${JSON.stringify(hosts)}))`)
      .execute();
    return new Map(
      rows.map((row) => [
        row.name,
        {
          store: row.store,
          now: row.now_image,
          next: row.next_image,
          scratchBytes: row.scratch_bytes,
          scratchUsedBytes: row.power === 'on' ? this.used(row) : 0,
          fillsBytesPerDay: row.fills_bytes_per_day,
        },
      ]),
    );
  }

  /** Hosts whose scratch disk is full, with since when: nothing on them can be written, and they answer nobody. */
  async stuckSince(): Promise<Map<string, Instant>> {
    const full = sql<number>`started_ms + scratch_bytes * ${DAY} / fills_bytes_per_day`;
    const rows = await this.db
      .selectFrom('stream')
      .innerJoin('machine', 'machine.id', 'machine_id')
      .select(['machine.name', full.as('since')])
      .where('machine.power', '=', 'on')
      .where('fills_bytes_per_day', '>', 0)
      .where(full, '<=', this.now())
      .execute();
    return new Map(rows.map(({ name, since }) => [name, since]));
  }

  async assign(hosts: readonly string[], imageId: string): Promise<void> {
    const machines = await this.db
      .selectFrom('stream')
      .innerJoin('machine', 'machine.id', 'machine_id')
      .select(['machine_id', 'store'])
      .where('machine.name', 'in', sql<string>`(select value from json_each(${JSON.stringify(hosts)}))`)
      .execute();
    for (const store of new Set(machines.map((row) => row.store))) await this.needRoom(store, imageId);
    await this.db
      .updateTable('stream')
      .set({ next_image: imageId })
      .where(
        'machine_id',
        'in',
        sql<string>`(select value from json_each(${JSON.stringify(machines.map((row) => row.machine_id))}))`,
      )
      .execute();
  }

  /** A host that streams from now on, or anew. */
  async begin(
    machine: { readonly id: string; readonly name: string },
    stream: { readonly store: string; readonly imageId: string; readonly scratchBytes: number },
  ): Promise<void> {
    const { store, imageId, scratchBytes } = stream;
    const row = {
      store,
      now_image: imageId,
      next_image: imageId,
      scratch_bytes: scratchBytes,
      fills_bytes_per_day: growthOf(this.seed, machine.name),
      started_ms: this.now(),
    };
    await this.db
      .insertInto('stream')
      .values({ machine_id: machine.id, ...row })
      .onConflict((c) => c.column('machine_id').doUpdateSet(row))
      .execute();
  }

  /** A host starts: what is next is now, and its scratch disk is empty. Gives its image; nothing for one that streams none. */
  async start(machineId: string): Promise<string | undefined> {
    const row = await this.db
      .updateTable('stream')
      .set((eb) => ({ now_image: eb.ref('next_image'), started_ms: this.now() }))
      .where('machine_id', '=', machineId)
      .returning('now_image')
      .executeTakeFirst();
    return row?.now_image;
  }

  async end(machineId: string): Promise<void> {
    await this.db.deleteFrom('stream').where('machine_id', '=', machineId).execute();
  }

  async storeOf(machineId: string): Promise<string | undefined> {
    const row = await this.db
      .selectFrom('stream')
      .select('store')
      .where('machine_id', '=', machineId)
      .executeTakeFirst();
    return row?.store;
  }

  /** Throws where a store has no stream left for one more host. */
  async needStream(store: string, name: string): Promise<void> {
    const row = await this.need(store);
    const used = await this.running(store);
    if (used >= row.streams)
      throw new EstateError(
        'quota',
        `the streaming store ${store} has no stream left for ${name}: ${used} of ${row.streams} are in use`,
      );
  }

  /** Throws where a store has no room for an image that it does not have yet. */
  async needRoom(store: string, imageId: string): Promise<void> {
    const { capacity_bytes } = await this.need(store);
    const images = await this.imagesOf(store);
    if (images.some((one) => one.image === imageId)) return;
    const image = await this.db
      .selectFrom('image')
      .select('size_bytes')
      .where('id', '=', imageId)
      .executeTakeFirst();
    if (!image) throw new EstateError('not found', `the hypervisor has no image ${imageId}`);
    const free = capacity_bytes - images.reduce((sum, one) => sum + one.bytes, 0);
    if (image.size_bytes > free)
      throw new EstateError(
        'quota',
        `the streaming store ${store} has no room for the image: it takes ${gigabytes(image.size_bytes)} and ${gigabytes(free)} are free`,
      );
  }

  private async need(store: string) {
    const row = await this.db
      .selectFrom('streaming_store')
      .selectAll()
      .where('name', '=', store)
      .executeTakeFirst();
    if (!row) throw new EstateError('not found', `there is no streaming store ${store}`);
    return row;
  }

  private async imagesOf(store: string): Promise<StreamedImage[]> {
    const rows = await this.db
      .selectFrom('image')
      .innerJoin('stream', (join) =>
        join.on((eb) =>
          eb.or([eb('now_image', '=', eb.ref('image.id')), eb('next_image', '=', eb.ref('image.id'))]),
        ),
      )
      .where('store', '=', store)
      .select([
        'image.id as image',
        'image.size_bytes as bytes',
        sql<number>`sum(now_image = image.id)`.as('now'),
        sql<number>`sum(next_image = image.id and now_image != image.id)`.as('next'),
      ])
      .groupBy('image.id')
      .orderBy('image.id')
      .execute();
    return rows;
  }

  private async running(store: string): Promise<number> {
    const { n } = await this.db
      .selectFrom('stream')
      .innerJoin('machine', 'machine.id', 'machine_id')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .where('store', '=', store)
      .where('machine.power', '=', 'on')
      .executeTakeFirstOrThrow();
    return n;
  }

  private async hostsOf(store: string): Promise<number> {
    const { n } = await this.db
      .selectFrom('stream')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .where('store', '=', store)
      .executeTakeFirstOrThrow();
    return n;
  }

  private used(row: { scratch_bytes: number; fills_bytes_per_day: number; started_ms: number }): number {
    const days = (this.now() - row.started_ms) / DAY;
    return Math.min(row.scratch_bytes, Math.round(row.fills_bytes_per_day * days));
  }
}
