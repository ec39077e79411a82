/** The practice directory: units, people, groups, computer accounts. */
import type { Group } from '@vatline/core/access/see-as';
import { EstateError, type Operation } from '../driver/operations.ts';
import type { Credentials, Directory, Person, UnitReport } from '../driver/directory.ts';
import {
  parentOf,
  readDistinguishedName,
  writeDistinguishedName,
} from '@vatline/core/directory/distinguished-name';
import type { RightGiven } from '@vatline/core/directory/rights';
import { PracticeAccounts } from './accounts.ts';
import { readSetting, type EstateDb } from './estate-database.ts';
import { minutesOf } from './pace-of-work.ts';
import type { PracticeOperations } from './operations.ts';

export class PracticeDirectory implements Directory {
  private readonly joinAccounts: PracticeAccounts;

  private constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    readonly root: string,
  ) {
    this.joinAccounts = new PracticeAccounts(db);
    operations.effect('join', (a: { name: string }) => this.endJoin(a.name));
  }

  static async open(db: EstateDb, operations: PracticeOperations): Promise<PracticeDirectory> {
    return new PracticeDirectory(db, operations, (await readSetting(db, 'root')) ?? '');
  }

  async units(): Promise<UnitReport[]> {
    return this.db
      .selectFrom('unit')
      .leftJoin('computer', 'computer.ou', 'unit.dn')
      .select(({ fn }) => ['unit.dn', 'unit.name', fn.count<number>('computer.name').as('computers')])
      .groupBy('unit.dn')
      .orderBy('unit.dn')
      .execute();
  }

  accounts = () => this.joinAccounts.all();
  createAccount = async (_key: string, name: string, unit: string, password: string) => {
    await this.needUnit(unit);
    await this.joinAccounts.create(name, unit, password);
  };
  checkPassword = (credentials: Credentials) => this.joinAccounts.check(credentials);
  rights = () => this.joinAccounts.rights();
  setRight = async (_key: string, given: RightGiven, isGiven: boolean) => {
    await this.needUnit(given.unit);
    await this.joinAccounts.setRight(given, isGiven);
  };

  async createUnit(_key: string, dn: string): Promise<void> {
    const name = readDistinguishedName(dn);
    const above = name.ok ? parentOf(name.value) : undefined;
    if (!name.ok || !above) throw new EstateError('failed', `${dn} is no unit`);
    const aboveDn = writeDistinguishedName(above);
    if (aboveDn !== this.root) await this.needUnit(aboveDn);
    await this.db
      .insertInto('unit')
      .values({ dn, name: name.value[0]?.[0]?.value ?? '' })
      .onConflict((c) => c.doNothing())
      .execute();
  }

  async computersIn(unit: string): Promise<string[]> {
    const rows = await this.db
      .selectFrom('computer')
      .select('name')
      .where('ou', '=', unit)
      .orderBy('name')
      .execute();
    return rows.map((row) => row.name);
  }

  /** Groups with their members; a rule group's members are worked out from the rule. */
  async groups(): Promise<Group[]> {
    const groups = await this.db.selectFrom('people_group').selectAll().orderBy('name').execute();
    const members = await this.db.selectFrom('member').selectAll().execute();
    const byRule = await this.db.selectFrom('person').select(['account', 'branch']).execute();
    const users = new Map<string, string[]>();
    const children = new Map<string, string[]>();
    for (const row of members) {
      const target = row.person === null ? children : users;
      const list = target.get(row.group_name) ?? [];
      list.push(row.person ?? row.child ?? '');
      target.set(row.group_name, list);
    }
    return groups.map((group) => ({
      name: group.name,
      users:
        group.rule_branch === null
          ? (users.get(group.name) ?? [])
          : byRule.filter((p) => p.branch === group.rule_branch).map((p) => p.account),
      groups: children.get(group.name) ?? [],
    }));
  }

  async people(
    query: string,
    { limit, after }: { readonly limit: number; readonly after?: Pick<Person, 'name' | 'account'> },
  ): Promise<{ people: Person[]; total: number }> {
    const like = `%${query.replace(/[%_]/g, '')}%`;
    const all = this.db
      .selectFrom('person')
      .where((eb) =>
        eb.or([eb('name', 'like', like), eb('account', 'like', like), eb('role', 'like', like)]),
      );
    const { total } = await all
      .select(({ fn }) => fn.countAll<number>().as('total'))
      .executeTakeFirstOrThrow();
    let rows = all.selectAll().orderBy('name').orderBy('account').limit(limit);
    if (after)
      rows = rows.where(({ eb, refTuple, tuple }) =>
        eb(refTuple('name', 'account'), '>', tuple(after.name, after.account)),
      );
    return { people: await rows.execute(), total };
  }

  person(account: string): Promise<Person | undefined> {
    return this.db.selectFrom('person').selectAll().where('account', '=', account).executeTakeFirst();
  }

  async counts(): Promise<{ users: number; groups: number; units: number; computers: number }> {
    const count = async (table: 'person' | 'people_group' | 'unit' | 'computer') =>
      (
        await this.db
          .selectFrom(table)
          .select(({ fn }) => fn.countAll<number>().as('n'))
          .executeTakeFirstOrThrow()
      ).n;
    return {
      users: await count('person'),
      groups: await count('people_group'),
      units: await count('unit'),
      computers: await count('computer'),
    };
  }

  async computerNames(): Promise<string[]> {
    return (await this.db.selectFrom('computer').select('name').execute()).map((row) => row.name);
  }

  async createComputer(_key: string, name: string, ou: string, by: Credentials | null): Promise<void> {
    await this.operations.refuseIfFaulty('create computer');
    await this.needUnit(ou);
    await this.joinAccounts.need(by, 'create computers', ou);
    const known = await this.db
      .selectFrom('computer')
      .selectAll()
      .where('name', '=', name)
      .executeTakeFirst();
    if (known && known.ou !== ou)
      throw new EstateError('conflict', `there is a computer account ${name} in ${known.ou}`);
    await this.db
      .insertInto('computer')
      .values({ name, ou })
      .onConflict((c) => c.doNothing())
      .execute();
  }

  async deleteComputer(_key: string, name: string, by: Credentials | null): Promise<void> {
    const known = await this.db
      .selectFrom('computer')
      .selectAll()
      .where('name', '=', name)
      .executeTakeFirst();
    if (!known) return;
    await this.joinAccounts.need(by, 'delete computers', known.ou);
    await this.db.deleteFrom('computer').where('name', '=', name).execute();
  }

  join(key: string, name: string): Promise<Operation> {
    return this.operations.begin({
      key,
      call: 'join',
      subject: name,
      minutes: minutesOf.join,
      effect: 'join',
      argument: { name },
    });
  }

  private async needUnit(dn: string): Promise<void> {
    const unit = await this.db.selectFrom('unit').select('dn').where('dn', '=', dn).executeTakeFirst();
    if (!unit) throw new EstateError('not found', `the directory has no unit ${dn}`);
  }

  private async endJoin(name: string): Promise<string> {
    const known = await this.db
      .selectFrom('computer')
      .select('name')
      .where('name', '=', name)
      .executeTakeFirst();
    if (!known) throw new EstateError('not found', `the directory has no computer account ${name}`);
    return name;
  }
}
