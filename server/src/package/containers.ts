/** Containers: rows in the database, bytes under their digests. */
import { join } from 'node:path';
import type { PackageState } from '@vatline/core/package/version-state';
import type { ContainerFormat } from '@vatline/core/container/formats';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import type { ContainerRow } from './tables.ts';
import { unsigned, type PackageVersionStore } from './versions.ts';

export class ContainerStore {
  constructor(
    private readonly parts: Pick<Parts, 'db' | 'dataFolder'>,
    private readonly versions: PackageVersionStore,
  ) {}

  private get db() {
    return this.parts.db;
  }

  /** A file, or of an image layout a folder. */
  path(digest: string): string {
    return join(this.parts.dataFolder, 'containers', digest);
  }

  async add(row: ContainerRow): Promise<void> {
    await this.db
      .insertInto('container')
      .values(row)
      .onConflict((c) => c.columns(['version_id', 'format']).doUpdateSet(row))
      .execute();
  }

  async has(versionId: string, format: ContainerFormat): Promise<boolean> {
    const row = await this.db
      .selectFrom('container')
      .select('digest')
      .where('version_id', '=', versionId)
      .where('format', '=', format)
      .executeTakeFirst();
    return row !== undefined;
  }

  /** Makes another container the one that hosts get. Throws when it was not built. */
  async choose(id: string, format: ContainerFormat, state: PackageState): Promise<void> {
    const container = await this.db
      .selectFrom('container')
      .selectAll()
      .where('version_id', '=', id)
      .where('format', '=', format)
      .executeTakeFirst();
    if (!container) throw invalid([{ path: 'format', message: `No container of this format was built` }]);
    await this.versions.update(id, {
      format,
      digest: container.digest,
      container_bytes: container.size_bytes,
      state,
      share: null,
      sign_in_json: null,
      ...unsigned,
    });
  }

  /** How long building took for each byte of content, by format, over all that were built here. */
  async secondsPerByte(): Promise<Map<string, number>> {
    const rows = await this.db
      .selectFrom('container')
      .innerJoin('package_version', 'package_version.id', 'container.version_id')
      .select(({ fn }) => [
        'container.format',
        fn.sum<number>('container.seconds').as('seconds'),
        fn.sum<number>('package_version.size_bytes').as('bytes'),
      ])
      .where('container.seconds', '>', 0)
      .groupBy('container.format')
      .execute();
    return new Map(rows.map((row) => [row.format, row.seconds / Math.max(1, row.bytes)]));
  }
}
