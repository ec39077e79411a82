/** People whose sessions come and go. */
import { arrivalsOf } from '@vatline/core/pool/session-curve';
import { hash32, logNormal, poisson, seededRandom } from '@vatline/core/random';
import { DAY, HOUR, MINUTE, type Instant } from '@vatline/core/time/instant';
import { wallClock } from '@vatline/core/time/zone';
import type { HostSpan, PoolLoad, Session, SignInHour, UserActivity } from '../driver/activity.ts';
import type { Operation } from '../driver/operations.ts';
import type { EstateDb } from './estate-database.ts';
import type { PracticeOperations } from './operations.ts';
import { STAY_MINUTES, type Presence } from './presence.ts';

/** What is left of a session, once somebody is asked to finish. */
const sessionLength = { medianMinutes: 8, p90Minutes: 40 };

/** Sign-ins are kept for so long. */
const WEEK = 7 * DAY;
/** How much longer they take where that fault is switched on. */
const SLOWER = 1.4;

export class PracticeActivity implements UserActivity {
  /** Of the hour that was asked about last; ten thousand hosts are asked about again and again in it. */
  private drawn = { hour: -1, byHost: new Map<string, number>() };

  constructor(
    private readonly db: EstateDb,
    private readonly operations: PracticeOperations,
    private readonly zone: string,
    private readonly seed: string,
    private readonly presence: Presence,
  ) {
    operations.effect('drain', () => Promise.resolve(''));
  }

  expected(pool: string, hosts: number, limit: number): Promise<readonly number[]> {
    return this.presence.curveOf(pool, { hosts, limit });
  }

  async present(pool: string): Promise<number> {
    return (await this.presence.now(pool)).present;
  }

  async arrivals(pool: string): Promise<number[]> {
    return arrivalsOf(await this.presence.curveOf(pool), STAY_MINUTES);
  }

  signIns(pool: string, from: Instant, to: Instant): Promise<SignInHour[]> {
    return this.presence.signIns(pool, from, Math.min(to, this.operations.now()));
  }

  async signInSeconds(pool: string, spans: readonly HostSpan[]): Promise<number[][]> {
    const arrivals = await this.arrivals(pool);
    const hosts = await this.db
      .selectFrom('machine')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .where('pool', '=', pool)
      .executeTakeFirstOrThrow();
    const slow = await this.slowSince(pool);
    const median = 14 + (hash32(`${this.seed}:sign-in:${pool}`) % 8);
    const ofHour = (hour: number) =>
      (arrivals[Math.floor(wallClock(this.zone, hour * HOUR).minutes / 60)] ?? 0) / Math.max(1, hosts.n);
    return spans.map((span) => this.signInsOn(span, ofHour, { median, slow }));
  }

  private signInsOn(
    { host, from, to }: HostSpan,
    ofHour: (hour: number) => number,
    { median, slow }: { readonly median: number; readonly slow: Instant },
  ): number[] {
    const until = Math.min(to, this.operations.now());
    const since = Math.max(from, until - WEEK);
    const seconds: number[] = [];
    for (let hour = Math.floor(since / HOUR); hour * HOUR < until; hour++) {
      const random = seededRandom(hash32(`${this.seed}:sign-in:${host}:${hour}`));
      for (let left = poisson(random, ofHour(hour)); left > 0; left--) {
        const at = hour * HOUR + random() * HOUR;
        const longer = at >= slow ? SLOWER : 1;
        const taken = logNormal(random, median, median * 1.5) * longer;
        if (at >= since && at < until) seconds.push(taken);
      }
    }
    return seconds;
  }

  /** Since when people wait longer; never where no such fault is switched on. */
  private async slowSince(pool: string): Promise<Instant> {
    const fault = await this.db
      .selectFrom('fault')
      .select('since_ms')
      .where('kind', '=', 'slow sign-ins')
      .where('target', '=', pool)
      .orderBy('since_ms')
      .executeTakeFirst();
    return fault?.since_ms ?? Infinity;
  }

  /**
   * The people of this minute, dealt out over the hosts that take them: each has the
   * whole part of its share, and one more with the chance of the rest, drawn from its name and the
   * hour. So one host can be asked about without going through the pool.
   */
  async sessions(load: PoolLoad, hosts: readonly string[]): Promise<Map<string, number>> {
    const hour = Math.floor(wallClock(this.zone, this.operations.now()).minutes / 60);
    const total = (await this.presence.now(load.pool, load)).present;
    const share = total / Math.max(1, load.taking);
    const whole = Math.floor(share);
    return new Map(
      hosts.map((host) => [
        host,
        Math.min(load.limit, this.drawOf(host, hour) < share - whole ? whole + 1 : whole),
      ]),
    );
  }

  /** Whose host it is, or people drawn from the directory by its name and the hour: the same for all that ask in it. */
  async people(load: PoolLoad, host: string): Promise<Session[]> {
    const now = this.operations.now();
    const count = (await this.sessions(load, [host])).get(host) ?? 0;
    const owner = await this.db
      .selectFrom('owner')
      .select('account')
      .where('host', '=', host)
      .executeTakeFirst();
    const people = await this.db
      .selectFrom('person')
      .select(['account', 'name'])
      .orderBy('account')
      .execute();
    if (people.length === 0) return [];
    const hour = Math.floor(now / HOUR);
    const taken = new Set<number>();
    const own = people.findIndex((person) => person.account === owner?.account);
    const draw = (n: number): number => {
      if (n === 0 && own >= 0) return own;
      let at = hash32(`${host} ${hour} ${n}`) % people.length;
      while (taken.has(at)) at = (at + 1) % people.length;
      return at;
    };
    return Array.from({ length: Math.min(count, people.length) }, (_, n) => {
      const at = draw(n);
      taken.add(at);
      const { account = '', name = '' } = people[at] ?? {};
      return { account, name, since: hour * HOUR - (hash32(`${host} ${hour} ${n} since`) % 180) * MINUTE };
    });
  }

  /** A number in [0, 1) for a host and an hour: the same for all that ask in that hour. */
  private drawOf(host: string, hour: number): number {
    if (hour !== this.drawn.hour) this.drawn = { hour, byHost: new Map() };
    const known = this.drawn.byHost.get(host);
    if (known !== undefined) return known;
    const draw = hash32(`${host} ${hour}`) / 2 ** 32;
    this.drawn.byHost.set(host, draw);
    return draw;
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
