/** What goes through the rings, and what that makes of each pool. */
import type { RolloutContents } from '@vatline/contract/rings/ring';
import type { Fault } from '@vatline/core/result';
import type { Parts } from '../../platform/parts.ts';
import type { PoolStore } from '../../pool/pools.ts';
import type { PoolRow } from '../../pool/tables.ts';

export class RingContents {
  private constructor(
    private readonly parts: Parts,
    private readonly contents: RolloutContents,
    /** The package of each version that is given, and of each that some pool has. */
    private readonly packageOf: ReadonlyMap<string, string>,
    private readonly line: { readonly id: string; readonly name: string } | undefined,
  ) {}

  static async open(parts: Parts, contents: RolloutContents): Promise<RingContents> {
    const versions = await parts.db.selectFrom('package_version').select(['id', 'package_id']).execute();
    const line = await parts.db
      .selectFrom('image_version')
      .innerJoin('image_line', 'image_line.id', 'image_version.line_id')
      .select(['image_line.id', 'image_line.name'])
      .where('image_version.id', '=', contents.imageVersionId ?? '')
      .executeTakeFirst();
    return new RingContents(parts, contents, new Map(versions.map((row) => [row.id, row.package_id])), line);
  }

  /** What is wrong with it whatever the pools. */
  get faults(): Fault[] {
    const { imageVersionId, packageVersionIds } = this.contents;
    const faults: Fault[] = [];
    const at = (path: string, message: string) => faults.push({ path: `contents.${path}`, message });
    if (imageVersionId === null && packageVersionIds.length === 0)
      at('imageVersionId', 'choose an image version, or a package version to put in');
    if (imageVersionId !== null && !this.line) at('imageVersionId', 'there is no such image version');
    const seen = new Set<string>();
    packageVersionIds.forEach((id, i) => {
      const of = this.packageOf.get(id);
      if (of === undefined) at(`packageVersionIds.${i}`, 'there is no such package version');
      else if (seen.has(of)) at(`packageVersionIds.${i}`, 'another version of its package is given already');
      if (of !== undefined) seen.add(of);
    });
    return faults;
  }

  async faultsFor({ name, line_id }: PoolRow, ring: number): Promise<Fault[]> {
    const { line } = this;
    if (!line || line.id === line_id) return [];
    const own = await this.parts.db
      .selectFrom('image_line')
      .select('name')
      .where('id', '=', line_id)
      .executeTakeFirst();
    const message = `${name} is made from ${own?.name ?? 'another line'}, not from ${line.name}`;
    return [{ path: `rings.${ring}.poolId`, message }];
  }

  /** What the hosts of a pool are to run: what it runs, with what is given in the place of what that replaces. */
  async of(
    { blend_id }: PoolRow,
    { blends }: PoolStore,
  ): Promise<{ imageVersionId: string; packageVersionIds: string[] }> {
    const given = new Map(this.contents.packageVersionIds.map((id) => [this.packageOf.get(id), id] as const));
    const attached = blend_id === null ? [] : await blends.packageIdsOf(blend_id);
    const packageVersionIds = attached.map((id) => given.get(this.packageOf.get(id)) ?? id);
    const current = blend_id === null ? '' : (await blends.get(blend_id)).image_version_id;
    const imageVersionId = this.contents.imageVersionId ?? current;
    // Two versions side by side become one where one is given.
    return { imageVersionId, packageVersionIds: [...new Set(packageVersionIds)] };
  }
}
