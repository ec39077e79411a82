/** What sites give at most, and those who run them, who answer requests for more. */
import type { HostSize } from '@vatline/core/pool/fit';
import { EstateError, type Operation } from '../../driver/operations.ts';
import type { EstateDb } from '../estate-database.ts';
import type { PracticeOperations } from '../operations.ts';
import { minutesOf } from '../pace-of-work.ts';

interface Request {
  readonly key: string;
  readonly site: string;
  readonly more: HostSize;
}

/** Nobody is given more than so much again of what the site has. */
const MOST_MORE = 1;

export class Quota {
  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
  ) {
    operations.effect('quota', (request: Request) => this.grant(request));
  }

  async request(key: string, site: string, more: HostSize): Promise<Operation> {
    const { cores, memory_bytes, graphics } = await this.need(site);
    const tooMuch =
      more.processors > cores * MOST_MORE ||
      more.memoryBytes > memory_bytes * MOST_MORE ||
      more.graphics > Math.max(1, graphics) * MOST_MORE;
    const fails = tooMuch
      ? {
          kind: 'quota' as const,
          message: `those who run ${site} do not double it; ask for less, or for another site`,
        }
      : undefined;
    return this.operations.begin({
      key,
      call: 'quota',
      subject: site,
      minutes: minutesOf.quota,
      effect: 'quota',
      argument: { key, site, more } satisfies Request,
      fails,
    });
  }

  /** Cut short it is done again, so that it is written down with what it gave. */
  private async grant({ key, site, more }: Request): Promise<string> {
    await this.need(site);
    await this.db.transaction().execute(async (tx) => {
      const known = await tx.selectFrom('made').select('key').where('key', '=', key).executeTakeFirst();
      if (known) return;
      await tx.insertInto('made').values({ key, result: site }).execute();
      await tx
        .updateTable('site')
        .set((eb) => ({
          cores: eb('cores', '+', more.processors),
          memory_bytes: eb('memory_bytes', '+', more.memoryBytes),
          graphics: eb('graphics', '+', more.graphics),
        }))
        .where('name', '=', site)
        .execute();
    });
    return site;
  }

  private async need(name: string) {
    const site = await this.db.selectFrom('site').selectAll().where('name', '=', name).executeTakeFirst();
    if (!site) throw new EstateError('not found', `there is no site ${name}`);
    return site;
  }
}
