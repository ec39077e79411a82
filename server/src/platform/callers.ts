/** Who calls. There is one person for now; accounts will be found here by the request. */
import { callerEndpoints, type Caller } from '@vatline/contract/caller';
import { roles } from '@vatline/core/roles';
import type { Db } from './database.ts';
import type { Door } from './door.ts';

const SETTING = 'acts_as';

export class Callers {
  private constructor(
    private readonly db: Db,
    private current: Caller,
  ) {}

  static async open(db: Db): Promise<Callers> {
    const row = await db.selectFrom('setting').select('value').where('name', '=', SETTING).executeTakeFirst();
    return new Callers(db, { role: roles.find((role) => role === row?.value) ?? 'engineer' });
  }

  /** Who makes a request. */
  get caller(): Caller {
    return this.current;
  }

  /** Kept over a restart, for all windows of the person. */
  async actAs(caller: Caller): Promise<Caller> {
    const row = { name: SETTING, value: caller.role };
    await this.db
      .insertInto('setting')
      .values(row)
      .onConflict((c) => c.column('name').doUpdateSet(row))
      .execute();
    this.current = caller;
    return caller;
  }
}

export function callerRoutes(door: Door, callers: Callers): void {
  door.serve(callerEndpoints.get, () => callers.caller);
  door.serve(callerEndpoints.actAs, ({ body }) => callers.actAs(body));
}
