/** Orders of rings in the database: named, each change a revision that stays. */
import type { RingOrder } from '@vatline/contract/rings/order';
import type { PlannedRing } from '@vatline/contract/rings/ring';
import { whoActs } from '../../platform/acting.ts';
import { newId } from '../../platform/ids.ts';
import type { Parts } from '../../platform/parts.ts';
import { conflict, notFound } from '../../platform/problem.ts';
import { refuseStale } from '../../platform/stale.ts';
import type { Plans } from '../plans.ts';
import { plannedRings, ringColumns } from './planned-rings.ts';

export class RingOrders {
  constructor(
    private readonly parts: Pick<Parts, 'db' | 'estate'>,
    private readonly plans: Plans,
  ) {}

  /** All by name, each with its newest revision. */
  async all(): Promise<RingOrder[]> {
    const rows = await this.parts.db.selectFrom('ring_order').selectAll().orderBy('name').execute();
    return Promise.all(rows.map((row) => this.present(row)));
  }

  async get(id: string): Promise<RingOrder> {
    const row = await this.parts.db
      .selectFrom('ring_order')
      .selectAll()
      .where('id', '=', id)
      .executeTakeFirst();
    if (!row) throw notFound('such order of rings');
    return this.present(row);
  }

  /** In a transaction of the caller's. Refuses a name that is taken. */
  async add(name: string, rings: readonly PlannedRing[]): Promise<string> {
    const id = newId('order');
    await this.refuseTaken(name, id);
    await this.parts.db.insertInto('ring_order').values({ id, name }).execute();
    await this.addRevision(id, 1, rings);
    return id;
  }

  /** In a transaction of the caller's. Refuses what somebody else changed meanwhile. */
  async keep(id: string, name: string, rings: readonly PlannedRing[], basedOn: number): Promise<number> {
    const { name: before, revision } = await this.get(id);
    refuseStale('order of rings', before, revision, basedOn);
    await this.refuseTaken(name, id);
    await this.parts.db.updateTable('ring_order').set({ name }).where('id', '=', id).execute();
    await this.addRevision(id, basedOn + 1, rings);
    return basedOn + 1;
  }

  async remove(id: string): Promise<void> {
    await this.parts.db.deleteFrom('ring_order').where('id', '=', id).execute();
  }

  private async refuseTaken(name: string, id: string): Promise<void> {
    const taken = await this.parts.db
      .selectFrom('ring_order')
      .select('id')
      .where('name', '=', name)
      .where('id', '!=', id)
      .executeTakeFirst();
    if (taken) throw conflict(`There is an order of rings named ${name} already`, 'name');
  }

  private async addRevision(order_id: string, number: number, rings: readonly PlannedRing[]): Promise<void> {
    const { db, estate } = this.parts;
    const revision = { order_id, number, at_ms: estate.clock.now(), by_role: whoActs() ?? null };
    await db.insertInto('ring_order_revision').values(revision).execute();
    const rows = (await ringColumns(this.plans, rings)).map((row) => ({
      ...row,
      order_id,
      revision: number,
    }));
    await db.insertInto('planned_ring').values(rows).execute();
  }

  private async present({ id, name }: { id: string; name: string }): Promise<RingOrder> {
    const { db } = this.parts;
    const revisions = await db
      .selectFrom('ring_order_revision as revision')
      .select((eb) => [
        'number',
        'at_ms as at',
        'by_role as by',
        eb
          .selectFrom('planned_ring')
          .select(({ fn }) => fn.countAll<number>().as('n'))
          .whereRef('planned_ring.order_id', '=', 'revision.order_id')
          .whereRef('planned_ring.revision', '=', 'revision.number')
          .$asScalar()
          .$notNull()
          .as('rings'),
      ])
      .where('order_id', '=', id)
      .orderBy('number', 'desc')
      .execute();
    const [newest] = revisions;
    if (!newest) throw new Error(`the order ${id} has no revision`);
    const rows = await db
      .selectFrom('planned_ring')
      .selectAll()
      .where('order_id', '=', id)
      .where('revision', '=', newest.number)
      .orderBy('number')
      .execute();
    const rings = await plannedRings(this.plans, rows);
    return { id, name, revision: newest.number, keptAt: newest.at, rings, revisions };
  }
}
