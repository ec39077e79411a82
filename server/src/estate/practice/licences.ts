/** The practice licence service: keys with so many activations. */
import type { Licences, MultiUseKey } from '../driver/licences.ts';
import { EstateError } from '../driver/operations.ts';
import type { EstateDb } from './estate-database.ts';
import type { PracticeOperations } from './operations.ts';

export class PracticeLicences implements Licences {
  /** One at a time: of two hosts only one gets the last activation. */
  private turn: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
  ) {}

  keys(): Promise<MultiUseKey[]> {
    return this.db
      .selectFrom('licence')
      .leftJoin('activation', 'activation.licence', 'licence.name')
      .select(({ fn }) => [
        'licence.name',
        'licence.activations',
        fn.count<number>('activation.host').as('used'),
      ])
      .groupBy('licence.name')
      .orderBy('licence.name')
      .execute();
  }

  activate(_key: string, licence: string, host: string): Promise<void> {
    const done = this.turn.then(() => this.takeOne(licence, host));
    this.turn = done.catch(() => undefined);
    return done;
  }

  async release(_key: string, host: string): Promise<void> {
    await this.db.deleteFrom('activation').where('host', '=', host).execute();
  }

  private async takeOne(licence: string, host: string): Promise<void> {
    const known = await this.db
      .selectFrom('activation')
      .selectAll()
      .where('host', '=', host)
      .executeTakeFirst();
    if (known?.licence === licence) return;
    await this.operations.refuseIfFaulty('activate');
    const key = (await this.keys()).find((row) => row.name === licence);
    if (!key) throw new EstateError('not found', `there is no key ${licence}`);
    if (key.used >= key.activations)
      throw new EstateError('quota', `the key ${licence} has no activation left of ${key.activations}`);
    await this.db
      .insertInto('activation')
      .values({ licence, host })
      .onConflict((c) => c.column('host').doUpdateSet({ licence }))
      .execute();
  }
}
