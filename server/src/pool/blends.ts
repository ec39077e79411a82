/** Blends in the database: what the hosts of a pool run, numbered and never changed. */
import type { Blend } from '@vatline/contract/pool/blend';
import { packagesKey, type BlendContents as HeldContents } from '@vatline/core/rollout/blends/need';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import type { BlendRow } from './tables.ts';

/** SQLite takes about 32,000 values in a statement. */
const AT_ONCE = 500;

/** What hosts are to run. */
export interface BlendContents {
  readonly imageVersionId: string;
  readonly packageVersionIds: readonly string[];
}

/** What is known of blends where hosts are listed, by id. */
export type KnownBlends = ReadonlyMap<string, Pick<Blend, 'number' | 'dye'>>;

export class BlendStore {
  constructor(private readonly parts: Pick<Parts, 'db'>) {}

  private get db() {
    return this.parts.db;
  }

  get(id: string): Promise<BlendRow> {
    return this.db.selectFrom('blend').selectAll().where('id', '=', id).executeTakeFirstOrThrow();
  }

  /** Makes the next blend of a pool. */
  async add(
    poolId: string,
    imageVersionId: string,
    packageIds: readonly string[],
    at: number,
    id = newId('blend'),
  ): Promise<BlendRow> {
    const last = await this.db
      .selectFrom('blend')
      .select(({ fn }) => fn.max('number').as('n'))
      .where('pool_id', '=', poolId)
      .executeTakeFirst();
    const row: BlendRow = {
      id,
      pool_id: poolId,
      number: Number(last?.n ?? 0) + 1,
      image_version_id: imageVersionId,
      made_ms: at,
    };
    const packages = [...new Set(packageIds)].map((package_version_id, place) => ({
      blend_id: id,
      place,
      package_version_id,
    }));
    await this.db.transact(async () => {
      await this.db.insertInto('blend').values(row).execute();
      if (packages.length > 0) await this.db.insertInto('blend_package').values(packages).execute();
    });
    return row;
  }

  /** Those of a pool, the newest first. */
  async of(poolId: string): Promise<string[]> {
    const rows = await this.db
      .selectFrom('blend')
      .select('id')
      .where('pool_id', '=', poolId)
      .orderBy('number', 'desc')
      .execute();
    return rows.map((row) => row.id);
  }

  /** The package versions of some blends, in their order, by blend; also those that are deleted by now. */
  async packageIds(ids: readonly string[]): Promise<Map<string, string[]>> {
    const rows = await this.db
      .selectFrom('blend_package')
      .select(['blend_id', 'package_version_id'])
      .where('blend_id', 'in', ids)
      .orderBy('place')
      .execute();
    const found = new Map<string, string[]>(ids.map((id) => [id, []]));
    for (const row of rows) found.get(row.blend_id)?.push(row.package_version_id);
    return found;
  }

  /** The package versions of a blend. */
  async packageIdsOf(id: string): Promise<string[]> {
    return (await this.packageIds([id])).get(id) ?? [];
  }

  /** The blends of a pool that are exactly this; more than one where a pool went back and forth. */
  async sameAs(poolId: string, contents: BlendContents): Promise<BlendRow[]> {
    const rows = await this.db
      .selectFrom('blend')
      .selectAll()
      .where('pool_id', '=', poolId)
      .where('image_version_id', '=', contents.imageVersionId)
      .execute();
    const packages = await this.packageIds(rows.map((row) => row.id));
    const wanted = packagesKey(contents.packageVersionIds);
    return rows.filter((row) => packagesKey(packages.get(row.id) ?? []) === wanted);
  }

  /** The image version of each blend of a pool. */
  async images(poolId: string): Promise<Map<string, string>> {
    const rows = await this.db
      .selectFrom('blend')
      .select(['id', 'image_version_id'])
      .where('pool_id', '=', poolId)
      .execute();
    return new Map(rows.map((row) => [row.id, row.image_version_id]));
  }

  /** What some blends hold, by id. */
  async contents(ids: readonly string[]): Promise<Map<string, HeldContents>> {
    const rows = await this.db
      .selectFrom('blend')
      .select(['id', 'image_version_id'])
      .where('id', 'in', ids)
      .execute();
    const packages = await this.packageIds(ids);
    return new Map(
      rows.map(({ id, image_version_id }) => [
        id,
        {
          imageVersionId: image_version_id,
          packageVersionIds: packages.get(id) ?? [],
          baselineRevisionId: null,
        },
      ]),
    );
  }

  /** Number and dye of a pool's blends, by blend. */
  async facts(poolId: string): Promise<Map<string, Pick<Blend, 'number' | 'dye'>>> {
    const rows = await this.db
      .selectFrom('blend')
      .innerJoin('image_version', 'image_version.id', 'blend.image_version_id')
      .select(['blend.id', 'blend.number', 'image_version.dye'])
      .where('pool_id', '=', poolId)
      .execute();
    return new Map(rows.map(({ id, ...facts }) => [id, facts]));
  }

  /** Some blends as the API gives them, by id. */
  async some(ids: Iterable<string>): Promise<Map<string, Blend>> {
    const wanted = [...new Set(ids)];
    const found = new Map<string, Blend>();
    for (let i = 0; i < wanted.length; i += AT_ONCE)
      for (const blend of await this.presented(wanted.slice(i, i + AT_ONCE))) found.set(blend.id, blend);
    return found;
  }

  private async presented(ids: readonly string[]): Promise<Blend[]> {
    const rows = await this.db
      .selectFrom('blend')
      .innerJoin('image_version', 'image_version.id', 'blend.image_version_id')
      .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
      .select([
        'blend.id',
        'blend.number',
        'blend.image_version_id',
        'blend.made_ms',
        'image_line.name as line',
        'image_version.number as imageNumber',
        'image_version.dye',
      ])
      .where('blend.id', 'in', ids)
      .execute();
    const packages = await this.db
      .selectFrom('blend_package')
      .innerJoin('package_version', 'package_version.id', 'blend_package.package_version_id')
      .innerJoin('package', 'package.id', 'package_version.package_id')
      .select(['blend_id as blend', 'package_version.id', 'package.name', 'package_version.version'])
      .where('blend_id', 'in', ids)
      .orderBy('place')
      .execute();
    return rows.map((row) => ({
      id: row.id,
      number: row.number,
      imageVersionId: row.image_version_id,
      line: row.line,
      imageNumber: row.imageNumber,
      dye: row.dye,
      packages: packages
        .filter(({ blend }) => blend === row.id)
        .map(({ id, name, version }) => ({ id, name, version })),
      madeAt: row.made_ms,
    }));
  }
}
