/** Blends in the database: what the hosts of a pool run, numbered and never changed. */
import type { Blend } from '@vatline/contract/pool/blend';
import { fromJson } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import type { BlendRow } from './tables.ts';

/** SQLite takes about 32,000 values in a statement. */
const AT_ONCE = 500;

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
      packages_json: JSON.stringify(packageIds),
      made_ms: at,
    };
    await this.db.insertInto('blend').values(row).execute();
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
        'blend.packages_json',
        'blend.made_ms',
        'image_line.name as line',
        'image_version.number as imageNumber',
        'image_version.dye',
      ])
      .where('blend.id', 'in', ids)
      .execute();
    const attached = rows.flatMap((row) => fromJson<string[]>(row.packages_json));
    const packages = await this.db
      .selectFrom('package_version')
      .innerJoin('package', 'package.id', 'package_version.package_id')
      .select(['package_version.id', 'package.name', 'package_version.version'])
      .where('package_version.id', 'in', [...new Set(attached)])
      .execute();
    const byId = new Map(packages.map((row) => [row.id, row]));
    return rows.map((row) => ({
      id: row.id,
      number: row.number,
      imageVersionId: row.image_version_id,
      line: row.line,
      imageNumber: row.imageNumber,
      dye: row.dye,
      packages: fromJson<string[]>(row.packages_json).flatMap((id) => byId.get(id) ?? []),
      madeAt: row.made_ms,
    }));
  }
}
