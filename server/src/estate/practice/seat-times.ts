/** How many hosts of each pool took people, from every change of it. */
import type { Instant } from '@vatline/core/time/instant';
import { DAY } from '@vatline/core/time/instant';
import type { EstateDb } from './estate-database.ts';

/** What is kept is as much as anybody can ask for, and a day to spare. */
export const KEPT_MS = 8 * DAY;

export interface TakingChange {
  readonly at: Instant;
  readonly hosts: number;
}

export class SeatTimes {
  constructor(
    private readonly db: EstateDb,
    private readonly now: () => Instant,
  ) {}

  /** Before the first change that is written down: it was so ever since. */
  async begin(pool: string): Promise<void> {
    const known = await this.db
      .selectFrom('taking_change')
      .select('at_ms')
      .where('pool', '=', pool)
      .limit(1)
      .executeTakeFirst();
    if (!known) await this.write(pool, 0);
  }

  /** Writes down how many take people now; of two changes at one instant the last is kept. */
  async note(pool: string): Promise<void> {
    await this.write(pool, this.now());
    await this.forget(pool);
  }

  private async write(pool: string, at_ms: number): Promise<void> {
    const hosts = await this.taking(pool);
    await this.db
      .insertInto('taking_change')
      .values({ pool, at_ms, hosts })
      .onConflict((c) => c.columns(['pool', 'at_ms']).doUpdateSet({ hosts }))
      .execute();
  }

  async taking(pool: string): Promise<number> {
    const { n } = await this.db
      .selectFrom('registration')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .where('pool', '=', pool)
      .where('takes', '=', 1)
      .executeTakeFirstOrThrow();
    return n;
  }

  /** The oldest first; the first tells how it was at `from`. */
  async since(pool: string, from: Instant): Promise<TakingChange[]> {
    const changes = this.db
      .selectFrom('taking_change')
      .select(['at_ms as at', 'hosts'])
      .where('pool', '=', pool);
    const before = await changes.where('at_ms', '<=', from).orderBy('at_ms', 'desc').limit(1).execute();
    const after = await changes.where('at_ms', '>', from).orderBy('at_ms').execute();
    // Nothing ever changed where nothing is written down.
    const first = before[0]?.hosts ?? (await this.taking(pool));
    return [{ at: from, hosts: first }, ...after];
  }

  /** The newest of those that are too old still says how it was when those that are kept begin. */
  private async forget(pool: string): Promise<void> {
    const old = this.now() - KEPT_MS;
    await this.db
      .deleteFrom('taking_change')
      .where('pool', '=', pool)
      .where('at_ms', '<', (eb) =>
        eb
          .selectFrom('taking_change as kept')
          .select((sub) => sub.fn.coalesce(sub.fn.max('kept.at_ms'), sub.lit(0)).as('at'))
          .where('kept.pool', '=', pool)
          .where('kept.at_ms', '<=', old),
      )
      .execute();
  }
}
