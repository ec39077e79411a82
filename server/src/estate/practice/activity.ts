/** People whose sessions come and go. */
import { hash32, logNormal, seededRandom } from '@vatline/core/random';
import { MINUTE } from '@vatline/core/time/instant';
import { wallClock } from '@vatline/core/time/zone';
import type { PoolLoad, UserActivity } from '../driver/activity.ts';
import type { Operation } from '../driver/operations.ts';
import type { EstateDb } from './estate-database.ts';
import type { PracticeOperations } from './operations.ts';

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
