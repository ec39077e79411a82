/** Fills a new practice estate from its plan. */
import type { EstatePlan } from '@vatline/demo/estate';
import type { EstateDb, EstateTables } from './estate-database.ts';

type Insert = (table: keyof EstateTables, rows: readonly object[]) => Promise<void>;

/** In one transaction: an estate is whole or not there. */
export async function fillEstate(db: EstateDb, plan: EstatePlan): Promise<void> {
  await db.transaction().execute(async (tx) => {
    const insert: Insert = async (table, rows) => {
      for (let i = 0; i < rows.length; i += 200)
        await tx
          .insertInto(table)
          .values(rows.slice(i, i + 200) as never)
          .execute();
    };
    await fillSites(insert, plan);
    await insert(
      'share',
      plan.shares.map((share) => ({
        name: share.name,
        capacity_bytes: share.capacityBytes,
        operations: share.operations,
        price: share.price,
        latency_ms: share.latencyMs,
        rights_json: JSON.stringify(share.rights),
      })),
    );
    await insert('unit', plan.units);
    await insert(
      'unit_right',
      plan.rights.map(({ unit, account, right }) => ({ unit, account, right })),
    );
    await insert('licence', plan.licences);
    await insert('person', plan.people);
    await insert(
      'people_group',
      plan.groups.map((g) => ({ name: g.name, rule_branch: g.ruleBranch ?? null })),
    );
    await insert(
      'member',
      plan.groups.flatMap((g) => [
        ...g.people.map((person) => ({ group_name: g.name, person, child: null })),
        ...g.groups.map((child) => ({ group_name: g.name, person: null, child })),
      ]),
    );
    await insert(
      'curve',
      plan.curves.map((c) => ({ pool: c.pool, expected_json: JSON.stringify(c.expected) })),
    );
    await insert(
      'installer',
      plan.installers.map((i) => ({ id: i.id, json: JSON.stringify(i) })),
    );
    await insert(
      'trait',
      Object.entries(plan.traits).map(([application, traits]) => ({
        application,
        json: JSON.stringify(traits),
      })),
    );
    const settings = {
      seed: plan.seed,
      zone: plan.zone,
      root: plan.root,
      rate: String(plan.rate),
      now: String(plan.start),
    };
    await insert(
      'setting',
      Object.entries(settings).map(([name, value]) => ({ name, value })),
    );
  });
}

async function fillSites(insert: Insert, { sites }: EstatePlan): Promise<void> {
  await insert(
    'site',
    sites.map(({ name, cores, memoryBytes, graphics, makesAtOnce }) => ({
      name,
      cores,
      makes_at_once: makesAtOnce,
      memory_bytes: memoryBytes,
      graphics,
    })),
  );
  await insert(
    'datastore',
    sites.flatMap((site) =>
      site.datastores.map(({ name, capacityBytes, operations, price, overcommit }) => ({
        site: site.name,
        name,
        capacity_bytes: capacityBytes,
        operations,
        price,
        overcommit,
      })),
    ),
  );
  await insert(
    'network',
    sites.flatMap((site) => site.networks.map((network) => ({ site: site.name, ...network }))),
  );
  await insert(
    'size',
    sites.flatMap((site) =>
      site.sizes.map(({ name, processors, memoryBytes, graphics, pricePerHour }) => ({
        site: site.name,
        name,
        processors,
        memory_bytes: memoryBytes,
        graphics,
        price_per_hour: pricePerHour,
      })),
    ),
  );
}

/** Estates from before sites had memory, networks, sizes and prices get those of the plan, once. */
export async function completeSites(db: EstateDb, plan: EstatePlan): Promise<void> {
  if (await db.selectFrom('size').select('name').limit(1).executeTakeFirst()) return;
  const known = new Set((await db.selectFrom('site').select('name').execute()).map((site) => site.name));
  const sites = plan.sites.filter((site) => known.has(site.name));
  await db.transaction().execute(async (tx) => {
    for (const { name } of sites) {
      await tx.deleteFrom('datastore').where('site', '=', name).execute();
      await tx.deleteFrom('site').where('name', '=', name).execute();
    }
    await fillSites(
      async (table, rows) => {
        if (rows.length > 0)
          await tx
            .insertInto(table)
            .values(rows as never)
            .execute();
      },
      { ...plan, sites },
    );
    if (plan.licences.length > 0)
      await tx
        .insertInto('licence')
        .values([...plan.licences])
        .execute();
    await tx.updateTable('machine').set({ memory_bytes: 8e9 }).where('memory_bytes', '=', 0).execute();
  });
}
