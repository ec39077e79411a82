import type { TrustStores } from '../../driver/hosts.ts';
import type { EstateDb } from '../estate-database.ts';

/** What hosts trust: some certificates everywhere, some in one pool only. */
export class PracticeTrust implements TrustStores {
  constructor(private readonly db: EstateDb) {}

  async of(pool: string): Promise<string[]> {
    const rows = await this.db.selectFrom('trust').select('pem').where('pool', 'in', ['', pool]).execute();
    return rows.map((row) => row.pem);
  }

  /** Lets the hosts of a pool, or of all when it is empty, trust a certificate. */
  async add(pool: string, pem: string): Promise<void> {
    await this.db
      .insertInto('trust')
      .values({ pool, pem })
      .onConflict((c) => c.doNothing())
      .execute();
  }
}
