/** The journal: what happened, when by the estate's clock, whose doing it was, and where to look. Also tells listeners. */
import type { Topic } from '@vatline/contract/topics';
import type { Instant } from '@vatline/core/time/instant';
import { whoActs } from './acting.ts';
import type { Db } from './database.ts';
import type { Live } from './live.ts';

export interface Note {
  readonly at: Instant;
  readonly kind: string;
  /** `pool:<id>`, `line:<id>` and so on. */
  readonly subject: string;
  readonly text: string;
  /** Address in the interface. */
  readonly link: string;
}

export class Journal {
  constructor(
    private readonly db: Db,
    private readonly live: Live,
  ) {}

  /** Within a transaction the notes are a part of it. */
  async note(...notes: Note[]): Promise<void> {
    if (notes.length === 0) return;
    const by_role = whoActs() ?? null;
    const rows = notes.map(({ at, kind, subject, text, link }) => ({
      at_ms: Math.round(at),
      kind,
      subject,
      text,
      link,
      by_role,
    }));
    await this.db.insertInto('journal').values(rows).execute();
    this.tell('journal');
  }

  tell(...topics: Topic[]): void {
    this.live.changedTopics(...topics);
  }
}
