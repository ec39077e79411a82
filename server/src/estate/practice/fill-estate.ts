/** Fills a new practice estate from its plan. */
import type { EstatePlan } from '@vatline/demo/estate';
import type { EstateDb } from './estate-database.ts';

/** In one transaction: an estate is whole or not there. */
export async function fillEstate(db: EstateDb, plan: EstatePlan): Promise<void> {
  await db.transaction().execute(async (tx) => {
    const insert = async (table: Parameters<typeof tx.insertInto>[0], rows: readonly object[]) => {
      for (let i = 0; i < rows.length; i += 200)
        await tx
          .insertInto(table)
          .values(rows.slice(i, i + 200) as never)
          .execute();
    };
    await insert(
      'site',
      plan.sites.map(({ name, cores }) => ({ name, cores })),
    );
    await insert(
      'datastore',
      plan.sites.flatMap((site) =>
        site.datastores.map((d) => ({
          site: site.name,
          name: d.name,
          capacity_bytes: d.capacityBytes,
          operations: d.operations,
        })),
      ),
    );
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
