/** The library: packages with their versions and captures. */
import type { CaptureState } from '@vatline/contract/capture';
import type { z } from 'zod';
import type { Page } from '@vatline/contract/page';
import type { packageEndpoints, PackageSummary, PresentDelivery } from '@vatline/contract/package';
import { compareVersionText } from '@vatline/core/version/text';
import { newId } from '../platform/ids.ts';
import { pageFrom, placeIn } from '../platform/page.ts';
import type { Parts } from '../platform/parts.ts';
import { namesOf, presentCapture, type CaptureStore } from './captures.ts';
import type { PackageRow } from './tables.ts';
import type { PackageVersionStore } from './versions.ts';

/** What the library says of an application that has a capture and no version yet. */
const captureNotes: Record<CaptureState, string> = {
  capturing: 'being captured',
  ready: 'captured, no container built yet',
  packaged: 'captured, no container built yet',
  failed: 'its capture failed',
};

type PackageQuery = z.output<typeof packageEndpoints.list.query>;

function holds({ name, publisher }: PackageRow, text: string): boolean {
  const part = text.toLowerCase();
  return name.toLowerCase().includes(part) || publisher.toLowerCase().includes(part);
}

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

  /** Packages by name, and applications that have a capture and no package yet. */
  async page({ limit, after, q }: PackageQuery): Promise<Page<PackageSummary> & { rows: PackageSummary[] }> {
    const [name] = placeIn(after, ['string']) ?? [];
    const all = (await this.rows()).filter((row) => holds(row, q));
    const from = name === undefined ? 0 : all.findIndex((row) => row.name > String(name));
    const wanted = from < 0 ? [] : all.slice(from, from + limit + 1);
    const shown = await this.summaries(wanted.slice(0, limit));
    return pageFrom(wanted, { limit, total: all.length, placeOf: (row) => [row.name] }, () => shown);
  }

  /** All of them, for who has to look through them. */
  async all(): Promise<PackageSummary[]> {
    return this.summaries(await this.rows());
  }

  /** All of them as they are listed, without what belongs to each. */
  private async rows(): Promise<PackageRow[]> {
    const packages = await this.db.selectFrom('package').selectAll().execute();
    const captures = await this.captures.states();
    const known = new Set(packages.map((row) => row.name));
    const strays = [...new Map(captures.map((row) => [row.package_name, row.state]))]
      .filter(([name]) => !known.has(name))
      .map(([name, state]) => ({
        id: `new-${name}`,
        name,
        publisher: '',
        delivery: 'not packaged' as const,
        note: captureNotes[state],
        side_by_side: 0,
        keep_versions: null,
      }));
    return [...packages, ...strays].sort((a, b) => (a.name < b.name ? -1 : 1));
  }

  private async summaries(rows: readonly PackageRow[]): Promise<PackageSummary[]> {
    const versions = await this.versions.ofPackages(rows.map((row) => row.id));
    const captures = await this.captures.named(rows.map((row) => row.name));
    const installers = await this.parts.estate.packaging.installers();
    const jobs = await this.parts.jobs.activeBySubject('capture:');
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
