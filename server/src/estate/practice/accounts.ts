/** Accounts of the practice directory that computers are joined with, and what each may do where. */
import { createHash } from 'node:crypto';
import { rightsIn, type RightGiven, type UnitRight } from '@vatline/core/directory/rights';
import type { AccountReport, Credentials } from '../driver/directory.ts';
import { EstateError } from '../driver/operations.ts';
import type { EstateDb } from './estate-database.ts';

export class PracticeAccounts {
  constructor(private readonly db: EstateDb) {}

  async all(): Promise<AccountReport[]> {
    const rows = await this.db.selectFrom('account').selectAll().orderBy('name').execute();
    return rows.map(({ name, unit, is_locked }) => ({ name, unit, isLocked: is_locked === 1 }));
  }

  async create(name: string, unit: string, password: string): Promise<void> {
    const there = await this.db
      .selectFrom('account')
      .select('unit')
      .where('name', '=', name)
      .executeTakeFirst();
    if (there) throw new EstateError('conflict', `there is an account ${name} in ${there.unit} already`);
    await this.db
      .insertInto('account')
      .values({ name, unit, password_digest: digestOf(name, password), is_locked: 0 })
      .execute();
  }

  async rights(): Promise<RightGiven[]> {
    return this.db.selectFrom('unit_right').selectAll().orderBy('unit').orderBy('account').execute();
  }

  async setRight(given: RightGiven, isGiven: boolean): Promise<void> {
    if (isGiven)
      await this.db
        .insertInto('unit_right')
        .values(given)
        .onConflict((c) => c.doNothing())
        .execute();
    else
      await this.db
        .deleteFrom('unit_right')
        .where('unit', '=', given.unit)
        .where('account', '=', given.account)
        .where('right', '=', given.right)
        .execute();
  }

  async check({ account, password }: Credentials): Promise<void> {
    const row = await this.db
      .selectFrom('account')
      .selectAll()
      .where('name', '=', account)
      .executeTakeFirst();
    if (!row) throw new EstateError('permission', `the directory has no account ${account}`);
    if (row.is_locked === 1 || (await this.isLockedForPractice(account)))
      throw new EstateError('permission', `the account ${account} is locked`);
    if (row.password_digest !== digestOf(account, password))
      throw new EstateError(
        'permission',
        `the password of ${account} is not the one that the directory knows`,
      );
  }

  /** The driver's own account may do everything. */
  async need(by: Credentials | null, right: UnitRight, unit: string): Promise<void> {
    if (!by) return;
    await this.check(by);
    const held = rightsIn(unit, by.account, await this.rights());
    if (!held.some((one) => one.right === right))
      throw new EstateError('permission', `${by.account} may not ${right} in ${unit}`);
  }

  private async isLockedForPractice(account: string): Promise<boolean> {
    const fault = await this.db
      .selectFrom('fault')
      .select('id')
      .where('kind', '=', 'account locked')
      .where('target', '=', account)
      .executeTakeFirst();
    return fault !== undefined;
  }
}

/** A practice directory holds practice passwords; what matters is that none is readable in its file. */
function digestOf(account: string, password: string): string {
  return createHash('sha256').update(`${account}\0${password}`).digest('hex');
}
