/** Accounts that computers are joined with: their passwords are sealed here and given to nobody but the directory. */
import type { Credentials } from '../estate/driver/directory.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import type { Sealer } from '../platform/sealed.ts';

export class JoinAccounts {
  constructor(
    private readonly parts: Pick<Parts, 'db' | 'estate'>,
    private readonly sealer: Sealer,
  ) {}

  /** Names of those whose passwords are known. */
  async known(): Promise<ReadonlySet<string>> {
    const rows = await this.parts.db.selectFrom('join_account').select('name').execute();
    return new Set(rows.map((row) => row.name));
  }

  /** Keeps a password; a newer one takes the place of an older one. */
  async keep({ account: name, password }: Credentials): Promise<void> {
    const row = {
      name,
      sealed_password: this.sealer.seal(password),
      known_ms: this.parts.estate.clock.now(),
    };
    await this.parts.db
      .insertInto('join_account')
      .values(row)
      .onConflict((c) => c.column('name').doUpdateSet(row))
      .execute();
  }

  async forget(name: string): Promise<void> {
    await this.parts.db.deleteFrom('join_account').where('name', '=', name).execute();
  }

  /** What the directory is asked with; null, Vat Line's own account, where none was chosen. */
  async credentials(name: string | null): Promise<Credentials | null> {
    if (name === null) return null;
    const row = await this.parts.db
      .selectFrom('join_account')
      .select('sealed_password')
      .where('name', '=', name)
      .executeTakeFirst();
    if (!row) throw conflict(`Vat Line does not know the password of ${name}`);
    return { account: name, password: this.sealer.unseal(row.sealed_password) };
  }
}
