/** What people wrote down of work that they did by hand on a build machine. */
import type { Parts } from '../platform/parts.ts';

export class HandNoteStore {
  constructor(private readonly parts: Pick<Parts, 'db'>) {}

  /** The newest fifty of a line, the newest first. */
  async of(lineId: string): Promise<{ text: string; at: number }[]> {
    return this.parts.db
      .selectFrom('hand_note')
      .select(['text', 'at_ms as at'])
      .where('line_id', '=', lineId)
      .orderBy('id', 'desc')
      .limit(50)
      .execute();
  }

  async add(lineId: string, text: string, at: number): Promise<void> {
    await this.parts.db.insertInto('hand_note').values({ line_id: lineId, text, at_ms: at }).execute();
  }
}
