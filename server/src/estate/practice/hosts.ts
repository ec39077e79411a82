/** Host agents that check every five minutes, people whose sessions come and go, and the shares. */
import { wallClock } from '@vatline/core/time/zone';
import { hash32, logNormal, seededRandom } from '@vatline/core/random';
import { MINUTE, type Instant } from '@vatline/core/time/instant';
import type { FileShare, HostAgents, Operation, PoolLoad, UserActivity } from '../driver.ts';
import type { EstateDb } from './estate-database.ts';
import type { PracticeOperations } from './operations.ts';

const CHECK_MS = 5 * MINUTE;
/** A silent agent is given up after three checks. */
const PATIENCE_MS = 3 * CHECK_MS;
const MOUNT_MS = 20_000;

/** The next check of a host's agent after an instant; each host has its own second in the five minutes. */
function nextCheckOf(host: string, after: Instant): Instant {
  const offset = (hash32(host) % 300) * 1000;
  return after - ((after - offset) % CHECK_MS) + CHECK_MS;
}

export class PracticeAgents implements HostAgents {
  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
  ) {
    operations.effect('attach', () => Promise.resolve(''));
    operations.effect('verify', () => Promise.resolve(''));
  }

  async silent(): Promise<string[]> {
    const rows = await this.db
      .selectFrom('fault')
      .select('target')
      .where('kind', '=', 'agent silent')
      .execute();
    return rows.map((row) => row.target);
  }

  async reporting(): Promise<number> {
    const { n } = await this.db
      .selectFrom('registration')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .executeTakeFirstOrThrow();
    return n - (await this.silent()).length;
  }

  async nextCheck(): Promise<Instant | null> {
    const now = this.operations.now();
    const rows = await this.db.selectFrom('registration').select('host').limit(500).execute();
    return rows.length === 0 ? null : Math.min(...rows.map((row) => nextCheckOf(row.host, now)));
  }

  async attach(key: string, host: string, digests: readonly string[]): Promise<Operation> {
    return this.atCheck(key, 'attach', host, MOUNT_MS * digests.length);
  }

  async verify(key: string, host: string): Promise<Operation> {
    return this.atCheck(key, 'verify', host, 0);
  }

  private async atCheck(
    key: string,
    call: 'attach' | 'verify',
    host: string,
    more: number,
  ): Promise<Operation> {
    const now = this.operations.now();
    const isSilent = (await this.silent()).includes(host);
    const fails = isSilent
      ? { kind: 'timeout' as const, message: `the agent on ${host} has been silent for 15 minutes` }
      : undefined;
    const readyAt = isSilent ? now + PATIENCE_MS : nextCheckOf(host, now) + more;
    return this.operations.begin({ key, call, subject: host, readyAt, effect: call, argument: {}, fails });
  }
}

/** Share of a pool's seats in use by local hour where nothing else is known: an office day. */
const officeDay = [2, 1, 1, 1, 1, 2, 6, 20, 55, 72, 76, 74, 62, 68, 74, 72, 64, 42, 20, 12, 8, 6, 4, 3].map(
  (n) => n / 100,
);

/** What is left of a session. */
const sessionLength = { medianMinutes: 8, p90Minutes: 40 };

export class PracticeActivity implements UserActivity {
  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    private readonly zone: string,
    private readonly seed: string,
  ) {
    operations.effect('drain', () => Promise.resolve(''));
  }

  async expected(pool: string, hosts: number, limit: number): Promise<number[]> {
    const row = await this.db.selectFrom('curve').selectAll().where('pool', '=', pool).executeTakeFirst();
    return row
      ? (JSON.parse(row.expected_json) as number[])
      : officeDay.map((share) => Math.round(share * hosts * limit * 0.7));
  }

  /**
   * The expected sessions of this minute, dealt out over the hosts that take them: each has the
   * whole part of its share, and one more with the chance of the rest, drawn from its name and the
   * hour. So one host can be asked about without going through the pool.
   */
  async sessions(load: PoolLoad, hosts: readonly string[]): Promise<Map<string, number>> {
    const curve = await this.expected(load.pool, load.hosts, load.limit);
    const { minutes } = wallClock(this.zone, this.operations.now());
    const hour = Math.floor(minutes / 60);
    const low = curve[hour] ?? 0;
    const total = low + (((curve[(hour + 1) % 24] ?? 0) - low) * (minutes % 60)) / 60;
    const share = total / Math.max(1, load.taking);
    const whole = Math.floor(share);
    return new Map(
      hosts.map((host) => {
        const draw = hash32(`${host} ${hour}`) / 2 ** 32;
        return [host, Math.min(load.limit, draw < share - whole ? whole + 1 : whole)];
      }),
    );
  }

  sessionLength(): Promise<typeof sessionLength> {
    return Promise.resolve(sessionLength);
  }

  /** Each session ends after a log-normal time. */
  drain(key: string, pool: string, host: string, sessions: number, limitMinutes: number): Promise<Operation> {
    const random = seededRandom(`${this.seed}:${key}:${pool}`);
    let minutes = 0;
    for (let i = 0; i < sessions; i++)
      minutes = Math.max(minutes, logNormal(random, sessionLength.medianMinutes, sessionLength.p90Minutes));
    const readyAt = this.operations.now() + Math.min(minutes, limitMinutes) * MINUTE;
    return this.operations.begin({
      key,
      call: 'drain',
      subject: host,
      readyAt,
      effect: 'drain',
      argument: {},
    });
  }
}

export class PracticeShare implements FileShare {
  constructor(private readonly db: EstateDb) {}

  async shares(): Promise<
    { name: string; capacityBytes: number; usedBytes: number; operationsPerSecond: number; files: number }[]
  > {
    const shares = await this.db.selectFrom('share').selectAll().orderBy('name').execute();
    const used = await this.db
      .selectFrom('share_file')
      .select(({ fn }) => [
        'share',
        fn.sum<number>('size_bytes').as('bytes'),
        fn.countAll<number>().as('files'),
      ])
      .groupBy('share')
      .execute();
    return shares.map((share) => {
      const here = used.find((row) => row.share === share.name);
      return {
        name: share.name,
        capacityBytes: share.capacity_bytes,
        operationsPerSecond: share.operations,
        usedBytes: here?.bytes ?? 0,
        files: here?.files ?? 0,
      };
    });
  }

  async put(_key: string, share: string, path: string, sizeBytes: number): Promise<void> {
    await this.db
      .insertInto('share_file')
      .values({ share, path, size_bytes: sizeBytes })
      .onConflict((c) => c.doNothing())
      .execute();
  }
}
