/** The journal: what happened, when by the estate's clock, and where to look. Also tells listeners. */
import type { Topic } from '@vatline/contract/topics';
import type { Instant } from '@vatline/core/time/instant';
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

  async note(...notes: Note[]): Promise<void> {
    if (notes.length === 0) return;
    const rows = notes.map(({ at, kind, subject, text, link }) => ({
      at_ms: Math.round(at),
      kind,
      subject,
      text,
      link,
    }));
    await this.db.insertInto('journal').values(rows).execute();
    this.tell('journal');
  }

  /** The same, its notes a part of a transaction. */
  within(tx: Db): Journal {
    return new Journal(tx, this.live);
  }

  tell(...topics: Topic[]): void {
    this.live.changedTopics(...topics);
  }
}
