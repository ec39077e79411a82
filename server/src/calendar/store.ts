/** Calendars in the database, and what they close. */
import type { Closed } from '@vatline/core/time/closed-days';
import { DAY, type Instant } from '@vatline/core/time/instant';
import { refuse, type Result } from '@vatline/core/result';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import { refuseStale } from '../platform/stale.ts';
import { workOf } from '../platform/workers.ts';
import type * as reading from './read-worker.ts';
import type { CalendarHead } from './tables.ts';

/** What is given may never end; what is kept was read once, and does not stand behind what is given. */
const givenWork = workOf<typeof reading>('calendar/read-worker.js', 'intake');
const keptWork = workOf<typeof reading>('calendar/read-worker.js');

/** A calendar of twenty years is read in a tenth of a second; others wait behind one that never ends. */
const PATIENCE_MS = 10_000;

/** Readings that are kept; a rollout asks for the same one at every look. */
const MOST_READ = 100;

export class CalendarStore {
  private readonly read = new Map<string, Promise<Result<Closed>>>();

  constructor(private readonly parts: Pick<Parts, 'db' | 'estate' | 'workers'>) {}

  /** All without their files, by name. */
  all(): Promise<CalendarHead[]> {
    return this.heads().orderBy('name').execute();
  }

  async get(id: string): Promise<CalendarHead> {
    const row = await this.heads().where('id', '=', id).executeTakeFirst();
    if (!row) throw notFound('such calendar');
    return row;
  }

  private heads() {
    return this.parts.db.selectFrom('calendar').select(['id', 'name', 'revision', 'kept_ms']);
  }

  /** Which of some identifiers are of no calendar. */
  async unknown(ids: readonly string[]): Promise<string[]> {
    const known = new Set((await this.all()).map((row) => row.id));
    return ids.filter((id) => !known.has(id));
  }

  /** What some calendars close together from an instant on; undefined for no calendar at all. */
  async closed(ids: readonly string[], zone: string, from: Instant): Promise<Closed | undefined> {
    if (ids.length === 0) return undefined;
    const dates = new Set<string>();
    const spans: Closed['spans'][number][] = [];
    for (const id of ids) {
      const result = await this.closedBy(await this.get(id), zone, from);
      // It was read when it was kept; a zone that it was not read in is a fault of the plan.
      if (!result.ok) throw invalid(result.error.map((fault) => ({ ...fault, path: 'calendarIds' })));
      for (const date of result.value.dates) dates.add(date);
      spans.push(...result.value.spans);
    }
    return { dates, spans };
  }

  /** What one closes. By the day, so that what asks again and again is answered from what was read. */
  closedBy({ id, revision }: CalendarHead, zone: string, from: Instant): Promise<Result<Closed>> {
    const day = Math.floor(from / DAY) * DAY;
    const key = `${id} ${revision} ${zone} ${day}`;
    const known = this.read.get(key);
    if (known) return known;
    const asked = this.textOf(id).then((text) =>
      keptWork(this.parts, 'readCalendar', { text, zone, from: day }),
    );
    this.read.set(key, asked);
    asked.catch(() => this.read.delete(key));
    const [oldest] = this.read.keys();
    if (this.read.size > MOST_READ && oldest !== undefined) this.read.delete(oldest);
    return asked;
  }

  private async textOf(id: string): Promise<string> {
    const { text } = await this.parts.db
      .selectFrom('calendar')
      .select('text')
      .where('id', '=', id)
      .executeTakeFirstOrThrow();
    return text;
  }

  /** Refuses a name that is taken. The text is one that can be read. */
  async add(name: string, text: string): Promise<string> {
    const id = newId('calendar');
    await this.parts.db.transact(async () => {
      const { db } = this.parts;
      const taken = await db.selectFrom('calendar').select('id').where('name', '=', name).executeTakeFirst();
      if (taken) throw conflict(`There is a calendar named ${name} already`, 'name');
      await db
        .insertInto('calendar')
        .values({ id, name, text, revision: 1, kept_ms: this.parts.estate.clock.now() })
        .execute();
    });
    return id;
  }

  /** The text is one that can be read. */
  async replace(id: string, text: string, basedOn: number): Promise<number> {
    const { db, estate } = this.parts;
    const row = await this.get(id);
    refuseStale('calendar', row.name, row.revision, basedOn);
    const revision = basedOn + 1;
    await db
      .updateTable('calendar')
      .set({ text, revision, kept_ms: estate.clock.now() })
      .where('id', '=', id)
      .execute();
    return revision;
  }

  async remove(id: string): Promise<void> {
    await this.parts.db.deleteFrom('calendar').where('id', '=', id).execute();
  }

  /** Refuses a file that cannot be read, at `text`. Ask before the change begins: others wait for its end. */
  async refuseUnreadable(text: string): Promise<void> {
    const { clock } = this.parts.estate;
    const signal = AbortSignal.timeout(PATIENCE_MS);
    const task = { text, zone: clock.zone, from: clock.now() };
    const result = await givenWork(this.parts, 'readCalendar', task, { signal }).catch((error: unknown) => {
      if (!signal.aborted) throw error;
      return refuse('text', `could not be read in ${PATIENCE_MS / 1_000} seconds; give fewer events at once`);
    });
    if (!result.ok) throw invalid(result.error.map((fault) => ({ ...fault, path: 'text' })));
  }
}
