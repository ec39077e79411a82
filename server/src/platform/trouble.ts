/**
 * What keeps the whole server from working: a full disk, a database that cannot be written or is
 * damaged. It is said on every screen, no work is begun meanwhile, and work goes on when it is over.
 */
import { closeSync, fsyncSync, openSync, rmSync, writeSync } from 'node:fs';
import { join } from 'node:path';
import type { Logger } from 'pino';
import type { Db } from './database.ts';
import { Refusal } from './problem.ts';

/** How often it is looked whether it is over. */
const LOOK_MS = 2_000;
/** Less room than this is as good as none: a container or a build would fill it at once. */
const ROOM_BYTES = 8_000_000;

const DAMAGED = 'The database is damaged; stop Vat Line and put a backup in its place';

/**
 * By what the system and the database themselves say, word for word: an error of one request may
 * hold somebody's own text, as "URI malformed" does.
 */
const kinds: readonly (readonly [RegExp, string])[] = [
  [
    /^(SQLITE_FULL|database or disk is full$)|^(.*: )?ENOSPC(:|$)/,
    'The disk is full; work goes on when there is room',
  ],
  [/^(.*: )?EDQUOT(:|$)/, 'The quota of the disk is used up; work goes on when there is room'],
  [
    /^(SQLITE_READONLY|attempt to write a readonly database$)|^(.*: )?EROFS(:|$)/,
    'The data folder cannot be written; work goes on when it can',
  ],
  [/^(SQLITE_CORRUPT|SQLITE_NOTADB|database disk image is malformed$|file is not a database$)/, DAMAGED],
  [
    /^(SQLITE_IOERR|disk I\/O error$)|^(.*: )?EIO(:|$)/,
    'The disk does not answer rightly; work goes on when it does',
  ],
];

/** What is wrong with the system, in a sentence; undefined for an error of one request alone. */
export function systemTrouble(error: unknown): string | undefined {
  const { code = '', message = '' } = (error ?? {}) as { code?: unknown; message?: unknown };
  const said = [String(code), String(message)];
  return kinds.find(([pattern]) => said.some((text) => pattern.test(text)))?.[1];
}

export class Trouble {
  /** In a sentence; null while all is well. */
  current: string | null = null;
  private timer: NodeJS.Timeout | undefined;
  private readonly listeners: (() => Promise<void>)[] = [];

  constructor(
    private readonly parts: { readonly db: Db; readonly dataFolder: string; readonly log: Logger },
    /** Told when it begins and when it is over. */
    private readonly changed: () => void,
  ) {}

  /** Called once it is over, to take up what was interrupted. */
  onOver(listener: () => Promise<void>): void {
    this.listeners.push(listener);
  }

  /** Takes note of an error; whether it is one of the system. */
  notice(error: unknown): boolean {
    const sentence = systemTrouble(error);
    if (sentence === undefined) return false;
    if (this.current !== sentence) {
      this.parts.log.error({ err: error as Error }, sentence);
      this.current = sentence;
      this.changed();
    }
    this.timer ??= setInterval(() => this.look(), LOOK_MS).unref();
    return true;
  }

  /** Throws a refusal while nothing can be done. */
  refuse(): void {
    if (this.current !== null) throw troubleRefusal(this.current);
  }

  close(): void {
    clearInterval(this.timer);
  }

  private look(): void {
    this.isOver()
      .then(async (over) => {
        // What is damaged stays so, though other pages can still be written.
        if (!over || this.current === null || this.current === DAMAGED) return;
        clearInterval(this.timer);
        this.timer = undefined;
        this.current = null;
        this.parts.log.info('work goes on');
        this.changed();
        for (const listener of this.listeners) await listener();
      })
      .catch((error: unknown) => {
        if (!this.notice(error)) this.parts.log.error({ err: error as Error }, 'work could not be taken up');
      });
  }

  /** Tries what failed: a file of some size, and a write to the database. */
  private async isOver(): Promise<boolean> {
    const probe = join(this.parts.dataFolder, 'uploads.part');
    try {
      const handle = openSync(probe, 'w');
      try {
        writeSync(handle, Buffer.alloc(ROOM_BYTES, 1));
        fsyncSync(handle);
      } finally {
        closeSync(handle);
      }
      await this.parts.db
        .insertInto('setting')
        .values({ name: 'probe', value: '1' })
        .onConflict((c) => c.column('name').doUpdateSet({ value: '1' }))
        .execute();
      return true;
    } catch {
      return false;
    } finally {
      rmSync(probe, { force: true });
    }
  }
}

/** The answer to a request that needs what is not there. */
export function troubleRefusal(sentence: string): Refusal {
  return new Refusal(507, 'No room', sentence);
}
