/** The practice providers: regions of a plan, each of which one site can be made in. */
import type { EstatePlan } from '@vatline/demo/estate';
import { networkFaults } from '@vatline/core/network-range';
import type { NewSite, ProviderReport, Providers, RegionReport } from '../driver/providers.ts';
import { EstateError, type Operation } from '../driver/operations.ts';
import type { EstateDb } from './estate-database.ts';
import type { Room } from './hypervisor/room.ts';
import type { PracticeOperations } from './operations.ts';
import { minutesOf } from './pace-of-work.ts';

/** Estates from before there were any get those of the plan. */
export async function completeProviders(db: EstateDb, { providers }: EstatePlan): Promise<void> {
  if (await db.selectFrom('region').select('name').limit(1).executeTakeFirst()) return;
  const rows = providers.flatMap(({ name: provider, regions }) =>
    regions.map(({ name, ...offer }) => ({ provider, name, offer_json: JSON.stringify(offer), site: null })),
  );
  if (rows.length > 0) await db.insertInto('region').values(rows).execute();
}

type Offer = Omit<RegionReport, 'name' | 'site'>;

export class PracticeProviders implements Providers {
  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    private readonly room: Room,
  ) {
    operations.effect('add site', (site: NewSite) => this.endAdd(site));
  }

  async all(): Promise<ProviderReport[]> {
    const rows = await this.db.selectFrom('region').selectAll().orderBy('provider').orderBy('name').execute();
    const names = [...new Set(rows.map((row) => row.provider))];
    return names.map((name) => ({
      name,
      regions: rows
        .filter((row) => row.provider === name)
        .map((row) => ({ name: row.name, site: row.site, ...(JSON.parse(row.offer_json) as Offer) })),
    }));
  }

  addSite(key: string, site: NewSite): Promise<Operation> {
    return this.room.oneAtATime(async () => {
      const known = await this.operations.get(key);
      if (known) return known;
      await this.needFree(site);
      return this.operations.begin({
        key,
        call: 'add site',
        subject: site.name,
        minutes: minutesOf.addSite,
        effect: 'add site',
        argument: site,
      });
    });
  }

  /** All of it at once; cut short it is done again, and finds its own region taken by itself. */
  private async endAdd(site: NewSite): Promise<string> {
    const region = await this.region(site);
    if (region.site === site.name) return site.name;
    await this.needFree(site);
    const { quota, sizes, datastores } = JSON.parse(region.offer_json) as Offer;
    await this.db.transaction().execute(async (tx) => {
      await tx
        .insertInto('site')
        .values({
          name: site.name,
          cores: quota.processors,
          memory_bytes: quota.memoryBytes,
          graphics: quota.graphics,
        })
        .execute();
      await tx
        .insertInto('network')
        .values(site.networks.map((network) => ({ site: site.name, reserved: 0, ...network })))
        .execute();
      await tx
        .insertInto('datastore')
        .values(
          datastores.map(({ capacityBytes, ...store }) => ({
            site: site.name,
            capacity_bytes: capacityBytes,
            ...store,
          })),
        )
        .execute();
      await tx
        .insertInto('size')
        .values(
          sizes.map(({ memoryBytes, pricePerHour, ...size }) => ({
            site: site.name,
            memory_bytes: memoryBytes,
            price_per_hour: pricePerHour,
            ...size,
          })),
        )
        .execute();
      await tx
        .updateTable('region')
        .set({ site: site.name })
        .where('provider', '=', site.provider)
        .where('name', '=', site.region)
        .execute();
    });
    return site.name;
  }

  private async region({ provider, region }: NewSite) {
    const row = await this.db
      .selectFrom('region')
      .selectAll()
      .where('provider', '=', provider)
      .where('name', '=', region)
      .executeTakeFirst();
    if (!row) throw new EstateError('not found', `${provider} has no region ${region}`);
    return row;
  }

  private async needFree(site: NewSite): Promise<void> {
    const region = await this.region(site);
    if (region.site !== null)
      throw new EstateError(
        'conflict',
        `${site.provider} ${site.region} has the site ${region.site} already`,
      );
    const sites = await this.room.sites();
    if (sites.some((one) => one.name === site.name))
      throw new EstateError('conflict', `there is a site ${site.name} already`);
    const there = sites.flatMap((one) => one.networks.map((network) => ({ site: one.name, ...network })));
    const [fault] = networkFaults(site.networks, there);
    if (fault) throw new EstateError('conflict', `the network cannot be made: ${fault.message}`);
  }
}
