/** The practice broker: which hosts people can be sent to. */
import { sql, type ExpressionBuilder } from 'kysely';
import type { Broker, BrokerPool } from '../driver/broker.ts';
import type { Operation } from '../driver/operations.ts';
import type { EstateDb, EstateTables } from './estate-database.ts';
import type { PracticeOperations } from './operations.ts';
import { minutesOf } from './pace-of-work.ts';
import type { SeatTimes } from './seat-times.ts';

export class PracticeBroker implements Broker {
  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    private readonly seats: SeatTimes,
  ) {
    operations.effect('register', async (a: { pool: string; host: string }) => {
      await this.seats.begin(a.pool);
      await this.db
        .insertInto('registration')
        .values(a)
        .onConflict((c) => c.column('host').doUpdateSet({ pool: a.pool }))
        .execute();
      await this.seats.note(a.pool);
      return a.host;
    });
  }

  async setPool(_key: string, pool: string, settings: BrokerPool): Promise<void> {
    await this.operations.refuseIfFaulty('set pool');
    const settings_json = JSON.stringify(settings);
    await this.db
      .insertInto('broker_pool')
      .values({ pool, settings_json })
      .onConflict((c) => c.column('pool').doUpdateSet({ settings_json }))
      .execute();
  }

  async removePool(_key: string, pool: string): Promise<void> {
    await this.db.deleteFrom('broker_pool').where('pool', '=', pool).execute();
  }

  async pool(pool: string): Promise<BrokerPool | undefined> {
    const row = await this.db
      .selectFrom('broker_pool')
      .selectAll()
      .where('pool', '=', pool)
      .executeTakeFirst();
    return row && (JSON.parse(row.settings_json) as BrokerPool);
  }

  async message(key: string, host: string, text: string): Promise<void> {
    await this.operations.refuseIfFaulty('message');
    await this.db
      .insertInto('message')
      .values({ key, host, text, at_ms: this.operations.now() })
      .onConflict((conflict) => conflict.column('key').doNothing())
      .execute();
  }

  async setOwner(_key: string, host: string, account: string | null): Promise<void> {
    if (account === null) await this.db.deleteFrom('owner').where('host', '=', host).execute();
    else
      await this.db
        .insertInto('owner')
        .values({ host, account })
        .onConflict((c) => c.column('host').doUpdateSet({ account }))
        .execute();
  }

  async owners(hosts: readonly string[]): Promise<Map<string, string>> {
    const rows = await this.db
      .selectFrom('owner')
      .selectAll()
      .where('host', 'in', sql<string>`(select value from json_each(${JSON.stringify(hosts)}))`)
      .execute();
    return new Map(rows.map(({ host, account }) => [host, account]));
  }

  register(key: string, pool: string, host: string): Promise<Operation> {
    return this.operations.begin({
      key,
      call: 'register',
      subject: host,
      minutes: minutesOf.register,
      effect: 'register',
      argument: { pool, host },
    });
  }

  async setTaking(_key: string, hosts: readonly string[], takes: boolean): Promise<void> {
    const others = (eb: ExpressionBuilder<EstateTables, 'registration'>) =>
      eb.and([
        eb('host', 'in', sql<string>`(select value from json_each(${JSON.stringify(hosts)}))`),
        eb('takes', '!=', takes ? 1 : 0),
      ]);
    const pools = await this.db.selectFrom('registration').select('pool').distinct().where(others).execute();
    for (const { pool } of pools) await this.seats.begin(pool);
    await this.db
      .updateTable('registration')
      .set({ takes: takes ? 1 : 0 })
      .where(others)
      .execute();
    for (const { pool } of pools) await this.seats.note(pool);
  }

  async deregister(_key: string, host: string): Promise<void> {
    const there = await this.db
      .selectFrom('registration')
      .select('pool')
      .where('host', '=', host)
      .executeTakeFirst();
    if (there) await this.seats.begin(there.pool);
    await this.db.deleteFrom('registration').where('host', '=', host).execute();
    if (there) await this.seats.note(there.pool);
    await this.db.deleteFrom('owner').where('host', '=', host).execute();
  }
}
