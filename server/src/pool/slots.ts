/** Slots of a chassis with what Vat Line makes or has made of them. */
import type { ChassisSlot } from '@vatline/contract/chassis';
import type { Parts } from '../platform/parts.ts';

/** A slot that a host is being made of counts as that host's from the moment that was accepted. */
export async function slotsOf({ db, estate }: Parts, chassis: string): Promise<ChassisSlot[]> {
  const reports = await estate.chassis.slots(chassis);
  const names = reports.flatMap((report) => report.host ?? []);
  const known = await db
    .selectFrom('host')
    .innerJoin('pool', 'pool.id', 'host.pool_id')
    .select(['host.name', 'pool.id', 'pool.name as pool'])
    .where('host.name', 'in', names)
    .execute();
  const made = await db
    .selectFrom('host_reserved')
    .innerJoin('pool', 'pool.id', 'host_reserved.pool_id')
    .select(['host_reserved.name', 'slot', 'pool.id', 'pool.name as pool'])
    .where('chassis', '=', chassis)
    .execute();
  return reports.map(({ slot, serial, state, host, processors, memoryBytes }) => {
    const making = made.find((row) => row.slot === slot);
    const owner = making ?? known.find((row) => row.name === host);
    return {
      slot,
      serial,
      state,
      processors,
      memoryBytes,
      host: making?.name ?? host,
      pool: owner ? { id: owner.id, name: owner.pool } : null,
      isBeingMade: making !== undefined,
    };
  });
}
