/** Chassis and streaming stores of the plan, once; machines that stand in one are found by the order of their names. */
import type { EstatePlan } from '@vatline/demo/estate';
import { growthOf } from './hypervisor/disks.ts';
import { readSetting, type EstateDb } from './estate-database.ts';

/** Estates from before there were any get those of the plan, and their sites. */
export async function completeChassis(db: EstateDb, plan: EstatePlan): Promise<void> {
  if (await db.selectFrom('chassis').select('name').limit(1).executeTakeFirst()) return;
  if (plan.chassis.length === 0) return;
  const known = new Set((await db.selectFrom('site').select('name').execute()).map((row) => row.name));
  const seed = (await readSetting(db, 'seed')) ?? '';
  await db.transaction().execute(async (tx) => {
    for (const site of plan.sites.filter(({ name }) => !known.has(name))) {
      const { name, cores, memoryBytes, graphics, networks, makesAtOnce } = site;
      const room = { cores, memory_bytes: memoryBytes, graphics, makes_at_once: makesAtOnce };
      await tx
        .insertInto('site')
        .values({ name, ...room })
        .execute();
      if (networks.length > 0)
        await tx
          .insertInto('network')
          .values(networks.map((network) => ({ site: name, ...network })))
          .execute();
    }
    await tx
      .insertInto('streaming_store')
      .values(
        plan.streamingStores.map(({ name, site, streams, capacityBytes, price }) => ({
          name,
          site,
          streams,
          capacity_bytes: capacityBytes,
          price,
        })),
      )
      .execute();
    for (const { name, site, machines } of plan.chassis) {
      await tx.insertInto('chassis').values({ name, site }).execute();
      await tx
        .insertInto('chassis_machine')
        .values(
          machines.map(({ serial, processors, memoryBytes, answersAtLook }, i) => ({
            chassis: name,
            slot: i + 1,
            serial,
            cores: processors,
            memory_bytes: memoryBytes,
            answers_at_look: answersAtLook,
            machine_id: null,
          })),
        )
        .execute();
    }
    for (const site of new Set(plan.chassis.map((one) => one.site))) await linkMachines(tx, site, seed);
  });
}

/** Hosts on the site of a chassis take its slots in the order of their names, and stream what they run. */
export async function linkMachines(db: EstateDb, site: string, seed: string): Promise<void> {
  const chassis = await db.selectFrom('chassis').selectAll().where('site', '=', site).executeTakeFirst();
  const store = await db
    .selectFrom('streaming_store')
    .selectAll()
    .where('site', '=', site)
    .executeTakeFirst();
  const machines = await db
    .selectFrom('machine')
    .innerJoin('disk', (join) => join.onRef('machine_id', '=', 'machine.id').on('role', '=', 'scratch'))
    .select(['machine.id', 'machine.name', 'power_since_ms', 'size_bytes'])
    .select((eb) =>
      eb
        .selectFrom('image')
        .select('image.id')
        .whereRef('image.guest', '=', 'machine.guest')
        .limit(1)
        .as('image'),
    )
    .where('machine.site', '=', site)
    .orderBy('machine.name')
    .execute();
  if (!chassis || !store || machines.length === 0) return;
  const now = Number((await readSetting(db, 'now')) ?? 0);
  await db
    .insertInto('chassis_look')
    .values({ chassis: chassis.name, number: 1, key: 'before', started_ms: now })
    .onConflict((c) => c.doNothing())
    .execute();
  for (const [i, machine] of machines.entries()) {
    await db
      .updateTable('chassis_machine')
      .set({ machine_id: machine.id })
      .where('chassis', '=', chassis.name)
      .where('slot', '=', i + 1)
      .execute();
    await db
      .insertInto('stream')
      .values({
        machine_id: machine.id,
        store: store.name,
        now_image: machine.image ?? '',
        next_image: machine.image ?? '',
        scratch_bytes: machine.size_bytes,
        fills_bytes_per_day: growthOf(seed, machine.name),
        started_ms: machine.power_since_ms,
      })
      .onConflict((c) => c.doNothing())
      .execute();
  }
}
