/** Secrets at rest: encrypted with a key that lies in a file of its own, outside of the database. */
import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import type { Db } from './database.ts';
import { conflict } from './problem.ts';

const ALGORITHM = 'aes-256-gcm';
const KEY_BYTES = 32;
const NONCE_BYTES = 12;
const TAG_BYTES = 16;

/** Sealed under the key in use, so that another one is noticed. */
const CHECK = { name: 'sealing_check', value: 'Vat Line' };

export class Sealer {
  private constructor(
    private readonly key: Buffer,
    /** Why nothing can be sealed or unsealed, in words without a path; empty when it can. */
    readonly fault: string,
  ) {}

  /**
   * Takes the key from the file that `VATLINE_KEY_FILE` names, or from `sealing.key` in the data
   * folder, which is made at first use, readable by its owner only. `sealed` is something that was
   * sealed earlier, if there is anything: a key that does not open it is not replaced, but leaves
   * the sealer with its fault.
   */
  static async open(db: Db, dataFolder: string, sealed: string | undefined): Promise<Sealer> {
    const named = process.env['VATLINE_KEY_FILE'];
    const path = named ?? join(dataFolder, 'sealing.key');
    const where =
      named === undefined ? 'sealing.key in the data folder' : 'the file that VATLINE_KEY_FILE names';
    const broken = (what: string) => new Sealer(Buffer.alloc(KEY_BYTES), `the sealing key ${what}: ${where}`);
    if (!existsSync(path)) {
      if (sealed !== undefined) return broken('is missing');
      writeFileSync(path, randomBytes(KEY_BYTES), { mode: 0o600, flag: 'wx' });
    }
    const key = readFileSync(path);
    if (key.length !== KEY_BYTES) return broken(`has not ${KEY_BYTES} bytes`);
    const sealer = new Sealer(key, '');
    if (sealed !== undefined && !sealer.opens((await checkIn(db)) ?? sealed))
      return broken('is not the one that was sealed with');
    await keepCheck(db, sealer.seal(CHECK.value));
    return sealer;
  }

  private opens(sealed: string): boolean {
    try {
      this.unseal(sealed);
      return true;
    } catch {
      return false;
    }
  }

  private need(): void {
    if (this.fault !== '') throw conflict(`Keys and passwords cannot be used: ${this.fault}`);
  }

  /** Throws a refusal when the key has a fault. */
  seal(secret: string): string {
    this.need();
    const nonce = randomBytes(NONCE_BYTES);
    const cipher = createCipheriv(ALGORITHM, this.key, nonce);
    const body = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), body]).toString('base64');
  }

  /** Throws when it was sealed with another key, or changed since; a refusal when the key has a fault. */
  unseal(sealed: string): string {
    this.need();
    const bytes = Buffer.from(sealed, 'base64');
    const decipher = createDecipheriv(ALGORITHM, this.key, bytes.subarray(0, NONCE_BYTES));
    decipher.setAuthTag(bytes.subarray(NONCE_BYTES, NONCE_BYTES + TAG_BYTES));
    const body = bytes.subarray(NONCE_BYTES + TAG_BYTES);
    return Buffer.concat([decipher.update(body), decipher.final()]).toString('utf8');
  }
}

async function checkIn(db: Db): Promise<string | undefined> {
  const row = await db
    .selectFrom('setting')
    .select('value')
    .where('name', '=', CHECK.name)
    .executeTakeFirst();
  return row?.value;
}

async function keepCheck(db: Db, value: string): Promise<void> {
  await db
    .insertInto('setting')
    .values({ name: CHECK.name, value })
    .onConflict((c) => c.column('name').doUpdateSet({ value }))
    .execute();
}
