/**
 * How many people are in each pool from minute to minute. The mean follows the pool's curve; around it
 * the number swings as that of a queue with a server for everybody does: with the mean as its variance,
 * and forgotten as fast as people stay (its limit for many people is a process of Ornstein and Uhlenbeck).
 * It is drawn from pool and day alone, so that any minute can be asked about, also one long past.
 */
import { arrivalsOf, DAY_MINUTES, officeSessions, sessionsAt } from '@vatline/core/pool/session-curve';
import { Waiting } from '@vatline/core/pool/waiting';
import { hash32, normal, poisson, seededRandom } from '@vatline/core/random';
import { DAY, HOUR, MINUTE, type Instant } from '@vatline/core/time/instant';
import { wallClock } from '@vatline/core/time/zone';
import type { SignInHour } from '../driver/activity.ts';
import type { EstateDb } from './estate-database.ts';
import type { SeatTimes } from './seat-times.ts';

/** How long people stay on average, minutes. */
export const STAY_MINUTES = 150;

/** Who has as many seats as there may be people. */
export interface Seats {
  readonly hosts: number;
  readonly limit: number;
}

interface Minute {
  readonly present: number;
  readonly came: number;
}

interface Around {
  readonly now: () => Instant;
  readonly zone: string;
  readonly seed: string;
}

/** Days whose swings are held. */
const HELD = 64;

export class Presence {
  private readonly swings = new Map<string, Float64Array>();

  constructor(
    private readonly db: EstateDb,
    private readonly seats: SeatTimes,
    private readonly around: Around,
  ) {}

  /** Sessions expected by local hour; those of an office where nothing else is known. */
  async curveOf(pool: string, seats?: Seats): Promise<readonly number[]> {
    const row = await this.db.selectFrom('curve').selectAll().where('pool', '=', pool).executeTakeFirst();
    if (row) return JSON.parse(row.expected_json) as number[];
    const { hosts, limit } = seats ?? (await this.seatsOf(pool));
    return officeSessions(hosts, limit);
  }

  async now(pool: string, seats?: Seats): Promise<Minute> {
    return this.at(pool, await this.curveOf(pool, seats), this.around.now(), await this.mostOf(pool));
  }

  /** Hour by hour who came between two instants, and how long they waited for a seat. */
  async signIns(pool: string, from: Instant, to: Instant): Promise<SignInHour[]> {
    const curve = await this.curveOf(pool);
    const { limit } = await this.seatsOf(pool);
    const most = await this.mostOf(pool);
    const changes = await this.seats.since(pool, from);
    const hours: SignInHour[] = [];
    const waiting = new Waiting();
    let next = 0;
    let taking = 0;
    for (let hour = Math.ceil(from / HOUR) * HOUR; hour + HOUR <= to; hour += HOUR) {
      const before = { people: waiting.people, minutes: waiting.minutes };
      let [signIns, mostSessions] = [0, 0];
      for (let at = hour; at < hour + HOUR; at += MINUTE) {
        while (next < changes.length && (changes[next]?.at ?? 0) <= at) taking = changes[next++]?.hosts ?? 0;
        const { present, came } = this.at(pool, curve, at, most);
        const seats = taking * limit;
        waiting.minute(came, present, seats);
        signIns += came;
        mostSessions = Math.max(mostSessions, Math.min(present, seats));
      }
      hours.push({
        from: hour,
        signIns,
        waited: waiting.people - before.people,
        waitedMinutes: waiting.minutes - before.minutes,
        mostSessions,
      });
    }
    return hours;
  }

  /** `most`: as many people as have a host of their own, where they have. */
  private at(pool: string, curve: readonly number[], at: Instant, most: number): Minute {
    const { minutes } = wallClock(this.around.zone, at);
    const mean = sessionsAt(curve, minutes);
    const swing = this.swingOf(pool, Math.floor(at / DAY))[Math.floor((at % DAY) / MINUTE)] ?? 0;
    const rate = (arrivalsOf(curve, STAY_MINUTES)[Math.floor(minutes / 60)] ?? 0) / 60;
    const random = seededRandom(hash32(`${this.around.seed}:${pool}:${Math.floor(at / MINUTE)}`));
    const present = Math.round(mean + Math.sqrt(mean) * swing);
    return { present: Math.max(0, Math.min(present, most)), came: poisson(random, rate) };
  }

  /** The swing of each minute of a day, in standard deviations; it is begun a day earlier, by when its beginning is forgotten. */
  private swingOf(pool: string, day: number): Float64Array {
    const key = `${pool} ${day}`;
    const held = this.swings.get(key);
    if (held) return held;
    const kept = Math.exp(-1 / STAY_MINUTES);
    const swings = new Float64Array(DAY_MINUTES);
    let swing = 0;
    for (const one of [day - 1, day]) {
      const random = seededRandom(`${this.around.seed}:presence:${pool}:${one}`);
      for (let minute = 0; minute < DAY_MINUTES; minute++) {
        swing = kept * swing + Math.sqrt(1 - kept * kept) * normal(random);
        swings[minute] = swing;
      }
    }
    if (this.swings.size >= HELD) this.swings.clear();
    this.swings.set(key, swings);
    return swings;
  }

  private async mostOf(pool: string): Promise<number> {
    const { n } = await this.db
      .selectFrom('registration')
      .innerJoin('owner', 'owner.host', 'registration.host')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .where('pool', '=', pool)
      .executeTakeFirstOrThrow();
    return n === 0 ? Infinity : n;
  }

  private async seatsOf(pool: string): Promise<Seats> {
    const { n } = await this.db
      .selectFrom('registration')
      .select(({ fn }) => fn.countAll<number>().as('n'))
      .where('pool', '=', pool)
      .executeTakeFirstOrThrow();
    const row = await this.db
      .selectFrom('broker_pool')
      .select('settings_json')
      .where('pool', '=', pool)
      .executeTakeFirst();
    const limit = row ? (JSON.parse(row.settings_json) as { sessionLimit: number }).sessionLimit : 1;
    return { hosts: n, limit };
  }
}
