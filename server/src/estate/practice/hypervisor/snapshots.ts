/** Snapshots of machines. */
import { sql } from 'kysely';
import type { Entry } from '@vatline/core/inventory/entry';
import { EstateError, type Operation } from '../../driver/operations.ts';
import type { EstateDb, EstateTables } from '../estate-database.ts';
import { emptyGuest, snapshotGrowth } from './guest.ts';
import type { PracticeOperations } from '../operations.ts';
import type { Guests } from './guests.ts';
import type { Machines } from './machines.ts';
import { idOfSnapshot } from './made-id.ts';

export class Snapshots {
  constructor(
    private readonly db: EstateDb,
    operations: PracticeOperations,
    private readonly guests: Guests,
    private readonly machines: Machines,
  ) {
    operations.effect('revert', (a: { id: string; snapshotId: string }) =>
      this.endRevert(a.id, a.snapshotId),
    );
  }

  async take(key: string, machineId: string): Promise<string> {
    const machine = await this.machines.need(machineId);
    const id = idOfSnapshot(key);
    const before = await this.db
      .selectFrom('snapshot')
      .select('guest')
      .where('machine_id', '=', machineId)
      .orderBy(sql`rowid`, 'desc')
      .limit(1)
      .executeTakeFirst();
    const size_bytes = snapshotGrowth(
      before ? await this.guests.of(before) : emptyGuest,
      await this.guests.of(machine),
      await this.guests.traits(),
    );
    await this.db
      .insertInto('snapshot')
      .values({ id, machine_id: machineId, guest: machine.guest, size_bytes })
      .onConflict((c) => c.doNothing())
      .execute();
    return id;
  }

  async inventory(id: string): Promise<readonly Entry[]> {
    return this.guests.inventoryOf(await this.guests.of(await this.need(id)));
  }

  async bytes(id: string): Promise<number> {
    return (await this.need(id)).size_bytes;
  }

  async delete(id: string): Promise<void> {
    await this.db.deleteFrom('snapshot').where('id', '=', id).execute();
  }

  revert(key: string, machineId: string, snapshotId: string): Promise<Operation> {
    return this.machines.begin(key, 'revert', machineId, { id: machineId, snapshotId });
  }

  private async endRevert(machineId: string, snapshotId: string): Promise<string> {
    const guest = await this.guests.of(await this.need(snapshotId));
    return this.machines.change(machineId, () => guest, 'on');
  }

  private async need(id: string): Promise<EstateTables['snapshot']> {
    const row = await this.db.selectFrom('snapshot').selectAll().where('id', '=', id).executeTakeFirst();
    if (!row) throw new EstateError('not found', `there is no snapshot ${id}`);
    return row;
  }
}
