/** Secrets at rest: encrypted with a key that lies in a file of its own, outside of the database. */
import { createCipheriv, createDecipheriv, randomBytes } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';

const ALGORITHM = 'aes-256-gcm';
const KEY_BYTES = 32;
const NONCE_BYTES = 12;
const TAG_BYTES = 16;

export class Sealer {
  private constructor(private readonly key: Buffer) {}

  /**
   * Takes the key from the file that `VATLINE_KEY_FILE` names, or from `sealing.key` in the data
   * folder, which is made at first use, readable by its owner only. Throws when it is no key.
   */
  static open(dataFolder: string): Sealer {
    const path = process.env['VATLINE_KEY_FILE'] ?? join(dataFolder, 'sealing.key');
    if (!existsSync(path)) writeFileSync(path, randomBytes(KEY_BYTES), { mode: 0o600, flag: 'wx' });
    const key = readFileSync(path);
    if (key.length !== KEY_BYTES) throw new Error(`${path} is no sealing key: it has not ${KEY_BYTES} bytes`);
    return new Sealer(key);
  }

  seal(secret: string): string {
    const nonce = randomBytes(NONCE_BYTES);
    const cipher = createCipheriv(ALGORITHM, this.key, nonce);
    const body = Buffer.concat([cipher.update(secret, 'utf8'), cipher.final()]);
    return Buffer.concat([nonce, cipher.getAuthTag(), body]).toString('base64');
  }

  /** Throws when it was sealed with another key, or changed since. */
  unseal(sealed: string): string {
    const bytes = Buffer.from(sealed, 'base64');
    const decipher = createDecipheriv(ALGORITHM, this.key, bytes.subarray(0, NONCE_BYTES));
    decipher.setAuthTag(bytes.subarray(NONCE_BYTES, NONCE_BYTES + TAG_BYTES));
    const body = bytes.subarray(NONCE_BYTES + TAG_BYTES);
    return Buffer.concat([decipher.update(body), decipher.final()]).toString('utf8');
  }
}
