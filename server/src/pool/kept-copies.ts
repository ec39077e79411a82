/** Copies of hosts that are kept to study, over HTTP. */
import { hostActionEndpoints } from '@vatline/contract/pool/host-action';
import { EstateError } from '../estate/driver/operations.ts';
import { change, DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, notFound } from '../platform/problem.ts';
import type { PoolStore } from './pools.ts';

export function keptCopyRoutes(door: Door, parts: Parts, pools: PoolStore): void {
  const { db, estate } = parts;

  door.serve(hostActionEndpoints.copies, async ({ params }) => {
    await pools.pool(params.id);
    const rows = await db
      .selectFrom('kept_copy')
      .selectAll()
      .where('pool_id', '=', params.id)
      .orderBy('kept_ms', 'desc')
      .execute();
    const machines = await estate.hypervisor.hostMachines(rows.map((row) => row.machine_id));
    return rows.map(({ machine_id, name, host, kept_ms }) => ({
      id: machine_id,
      name,
      host,
      keptAt: kept_ms,
      bytes: machines.get(machine_id)?.ownBytes ?? 0,
    }));
  });

  door.serve(hostActionEndpoints.dropCopy, async ({ params: { id, machine } }) => {
    const row = await db
      .selectFrom('kept_copy')
      .selectAll()
      .where('pool_id', '=', id)
      .where('machine_id', '=', machine)
      .executeTakeFirst();
    if (!row) throw notFound('such copy');
    // The machine first: a stop in between leaves a row whose machine is gone, which is deleted again.
    try {
      await estate.hypervisor.deleteMachine(newId('copy'), machine);
    } catch (error) {
      throw error instanceof EstateError ? conflict(error.message) : error;
    }
    return change(
      parts,
      async () => {
        await db.deleteFrom('kept_copy').where('machine_id', '=', machine).execute();
        return DONE;
      },
      () => ({ kind: 'pool', subject: `pool:${id}`, text: `${row.name} was deleted`, link: `/pools/${id}` }),
    );
  });
}
