/** For how long machines are on, from every change of their power. */
import { sql } from 'kysely';
import type { Power } from '@vatline/core/power';
import type { Instant } from '@vatline/core/time/instant';
import type { OnTime } from '../../driver/hypervisor.ts';
import type { EstateDb } from '../estate-database.ts';

export class PowerTimes {
  constructor(
    private readonly db: EstateDb,
    private readonly now: () => Instant,
  ) {}

  /** Of two changes at one instant the last is kept. */
  async note(machineId: string, power: Power | 'gone'): Promise<void> {
    await this.db
      .insertInto('power_change')
      .values({ machine_id: machineId, at_ms: this.now(), power })
      .onConflict((c) => c.columns(['machine_id', 'at_ms']).doUpdateSet({ power }))
      .execute();
  }

  /** A machine counts from its first change on, until it is gone. */
  async between(ids: readonly string[], from: Instant, to: Instant): Promise<OnTime> {
    const until = Math.min(to, this.now());
    const spans = this.db
      .selectFrom('power_change')
      .where('machine_id', 'in', sql<string>`(select value from json_each(${JSON.stringify(ids)}))`)
      .where('at_ms', '<', until)
      .select(({ fn }) => [
        'power',
        sql<number>`max(at_ms, ${from})`.as('since'),
        fn
          .coalesce(
            sql<number>`lead(at_ms) over (partition by machine_id order by at_ms)`,
            sql<number>`${until}`,
          )
          .as('ended'),
      ])
      .as('span');
    const rows = await this.db
      .selectFrom(spans)
      .where('ended', '>', sql<number>`since`)
      .where('power', '!=', 'gone')
      .select(['power', sql<number>`sum(ended - since)`.as('ms')])
      .groupBy('power')
      .execute();
    const of = (power: Power) => rows.find((row) => row.power === power)?.ms ?? 0;
    return {
      onMs: of('on'),
      suspendedMs: of('suspended'),
      thereMs: of('on') + of('suspended') + of('off'),
    };
  }
}
