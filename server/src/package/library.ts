/** The library: packages with their versions and captures. */
import type { CaptureState } from '@vatline/contract/capture';
import type { PackageSummary, PresentDelivery } from '@vatline/contract/package';
import { compareVersionText } from '@vatline/core/version/text';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { namesOf, presentCapture, type CaptureStore } from './captures.ts';
import type { PackageVersionStore } from './versions.ts';

/** What the library says of an application that has a capture and no version yet. */
const captureNotes: Record<CaptureState, string> = {
  capturing: 'being captured',
  ready: 'captured, no container built yet',
  packaged: 'captured, no container built yet',
  failed: 'its capture failed',
};

export class PackageLibrary {
  constructor(
    private readonly parts: Pick<Parts, 'db' | 'jobs' | 'estate'>,
    private readonly versions: PackageVersionStore,
    private readonly captures: CaptureStore,
  ) {}

  private get db() {
    return this.parts.db;
  }

  async add(row: {
    name: string;
    publisher: string;
    delivery: PresentDelivery;
    note: string;
  }): Promise<string> {
    const known = await this.db
      .selectFrom('package')
      .selectAll()
      .where('name', '=', row.name)
      .executeTakeFirst();
    if (known) {
      if (row.delivery === 'container')
        await this.db
          .updateTable('package')
          .set({ delivery: 'container' })
          .where('id', '=', known.id)
          .execute();
      return known.id;
    }
    const id = newId('package');
    await this.db
      .insertInto('package')
      .values({ id, ...row })
      .execute();
    return id;
  }

  /** Packages of which several versions may reach a person at once. */
  async sideBySide(): Promise<Set<string>> {
    const rows = await this.db.selectFrom('package').select('id').where('side_by_side', '=', 1).execute();
    return new Set(rows.map((row) => row.id));
  }

  async summaries(): Promise<PackageSummary[]> {
    const packages = await this.db.selectFrom('package').selectAll().orderBy('name').execute();
    const versions = await this.versions.all();
    const captures = await this.captures.all();
    const installers = await this.parts.estate.packaging.installers();
    const jobs = await this.parts.jobs.activeBySubject('capture:');
    const lastCapture = new Map([...captures].reverse().map((row) => [row.package_name, row]));
    const known = new Set(packages.map((row) => row.name));
    const strays = [...lastCapture.keys()].filter((name) => !known.has(name));
    const rows = [
      ...packages,
      ...strays.map((name) => ({
        id: `new-${name}`,
        name,
        publisher: '',
        delivery: 'not packaged' as const,
        note: captureNotes[lastCapture.get(name)?.state ?? 'capturing'],
        side_by_side: 0,
        keep_versions: null,
      })),
    ];
    return rows.map((row) => {
      const own = versions.filter((version) => version.packageId === row.id);
      const newest = installers
        .filter((installer) => installer.name === row.name)
        .sort((a, b) => compareVersionText(b.version, a.version))[0];
      const isNewer = newest && own[0] && compareVersionText(newest.version, own[0].version) > 0;
      return {
        id: row.id,
        name: row.name,
        publisher: row.publisher,
        delivery: row.delivery,
        note: row.note,
        versions: own,
        captures: captures
          .filter((capture) => capture.package_name === row.name)
          .map((capture) =>
            presentCapture(capture, namesOf(capture, installers), jobs.get(`capture:${capture.id}`) ?? null),
          ),
        waiting: isNewer ? newest.version : null,
        sideBySide: row.side_by_side === 1,
        keepVersions: row.keep_versions,
      };
    });
  }
}
