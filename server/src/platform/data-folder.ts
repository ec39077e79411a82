/** The data folder: that it is ours, that one server has it, and clearing it. */
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import Sqlite from 'better-sqlite3';
import { openDatabase } from './database.ts';

const MARKER = 'vat-line.json';
const LOCK = 'server.lock';
const PID = 'server.pid';
/** There only while the demo is being filled. */
const FILLING = 'demo-filling';

/** Everything that is ever made in it. Nothing else is deleted. */
const madeHere = new Set([
  'vatline.sqlite',
  'estate.sqlite',
  'archives',
  'filling',
  'captures',
  'containers',
  'deltas',
  'imported-images',
  'inventories',
  'shares',
  'uploads',
  'sealing.key',
  FILLING,
]);

/** What stays while a server has the folder. */
const ours = new Set([...madeHere, MARKER, LOCK, PID]);

/** A database may have a log and an index of it beside it. */
const withoutSuffix = (name: string) => name.replace(/-(wal|shm|journal)$/, '');

/** A folder that this process has for itself. */
export class DataFolder {
  private constructor(
    readonly path: string,
    private readonly lock: Sqlite.Database,
  ) {}

  /**
   * Takes a folder, which is made when it is not there. Throws with a sentence for a person when it
   * holds what is not ours, or another server has it; nothing in it is changed then.
   */
  static claim(path: string): DataFolder {
    refuseForeign(path);
    mkdirSync(path, { recursive: true });
    const lock = lockOf(path);
    writeFileSync(join(path, PID), `${process.pid}\n`);
    if (!existsSync(join(path, MARKER)))
      writeFileSync(join(path, MARKER), `${JSON.stringify({ dataFolderOf: 'Vat Line' })}\n`);
    return new DataFolder(path, lock);
  }

  /** Deletes all that was made here, and tells what else is there and stays. */
  clear(): string[] {
    clearFolder(this.path);
    return readdirSync(this.path).filter((name) => !ours.has(withoutSuffix(name)));
  }

  release(): void {
    rmSync(join(this.path, PID), { force: true });
    this.lock.close();
  }
}

/** Takes away what a filling left behind that was cut short; it held nobody's work yet. */
export function clearCutShortFilling(path: string): boolean {
  if (!existsSync(join(path, FILLING))) return false;
  clearFolder(path);
  return true;
}

/**
 * Throws when one of the two databases is missing beside the other, which holds something: what an
 * application knows and what its estate is would not agree any more.
 */
export async function refuseHalf(path: string): Promise<void> {
  const [own, estate] = ['vatline.sqlite', 'estate.sqlite'];
  const there = (name: string) => existsSync(join(path, name));
  if (there(own) === there(estate)) return;
  // Killed at its very first start, it may have made one of them, which is empty then.
  if (there(own) && (await isEmpty(join(path, own)))) return;
  const [missing, present] = there(own) ? [estate, own] : [own, estate];
  throw new Error(
    `${missing} is missing beside ${present}; put it back from a backup, or begin anew with npm start -- --fresh`,
  );
}

async function isEmpty(path: string): Promise<boolean> {
  const db = await openDatabase(path);
  try {
    return (await db.selectFrom('image_line').select('id').limit(1).executeTakeFirst()) === undefined;
  } finally {
    await db.destroy();
  }
}

/** What was being uploaded when the server ended is of no use to anybody. */
export function clearUploads(path: string): void {
  rmSync(join(path, 'uploads'), { recursive: true, force: true });
  for (const folder of ['archives', 'containers', 'inventories', 'imported-images'])
    for (const name of existsSync(join(path, folder)) ? readdirSync(join(path, folder)) : [])
      if (name.endsWith('.part')) rmSync(join(path, folder, name), { recursive: true, force: true });
}

/** While this runs, the folder is marked as being filled; the mark goes last. */
export async function whileFilling(path: string, fill: () => Promise<void>): Promise<void> {
  const mark = join(path, FILLING);
  writeFileSync(mark, 'The demo is being filled into this folder.\n');
  await fill();
  rmSync(mark);
}

/** The mark of a filling goes last, so that a clearing that is cut short is gone on with. */
function clearFolder(path: string): void {
  const names = readdirSync(path).filter((name) => madeHere.has(withoutSuffix(name)) && name !== FILLING);
  for (const name of names) rmSync(join(path, name), { recursive: true, force: true });
  rmSync(join(path, FILLING), { force: true });
}

function refuseForeign(path: string): void {
  const stat = statSync(path, { throwIfNoEntry: false });
  if (stat === undefined) return;
  if (!stat.isDirectory()) throw new Error(`${path} is a file; name a folder with VATLINE_DATA`);
  const names = readdirSync(path);
  // Folders from before there was a marker are known by their databases.
  const isOurs =
    names.includes(MARKER) || (names.includes('vatline.sqlite') && names.includes('estate.sqlite'));
  const others = names.filter((name) => !ours.has(withoutSuffix(name)));
  if (isOurs || others.length === 0) return;
  const shown = others.slice(0, 3).join(', ') + (others.length > 3 ? ` and ${others.length - 3} more` : '');
  throw new Error(
    `${path} is no data folder of Vat Line: it holds ${shown}; name another or a new one with VATLINE_DATA`,
  );
}

/**
 * A lock that the system lets go when the process ends, however it does: an open transaction on a
 * file of its own.
 */
function lockOf(path: string): Sqlite.Database {
  const lock = new Sqlite(join(path, LOCK), { timeout: 0 });
  try {
    lock.pragma('journal_mode = DELETE');
    lock.exec('begin exclusive');
    return lock;
  } catch (error) {
    lock.close();
    if ((error as { code?: string }).code !== 'SQLITE_BUSY') throw error;
    throw new Error(
      `another Vat Line${pidIn(path)} works in ${path}; stop it, or name another folder with VATLINE_DATA`,
      { cause: error },
    );
  }
}

function pidIn(path: string): string {
  try {
    return ` (process ${readFileSync(join(path, PID), 'utf8').trim()})`;
  } catch {
    return '';
  }
}
