/** One archive of a source folder: tar with gzip, the same bytes for the same folder. */
import { createHash } from 'node:crypto';
import { createReadStream, createWriteStream, readdirSync, statSync } from 'node:fs';
import { pipeline } from 'node:stream/promises';
import { createGzip } from 'node:zlib';
import { InputError } from './input-error.ts';
import { tarFolder } from './tar-folder.ts';

export interface Archived {
  /** SHA-256 in hex. */
  readonly digest: string;
  readonly bytes: number;
  readonly files: number;
}

/** Writes the archive to `out`. Throws `InputError` for a folder without files. */
export async function archiveFolder(folder: string, out: string): Promise<Archived> {
  const files = readdirSync(folder, { recursive: true, withFileTypes: true }).filter((child) =>
    child.isFile(),
  ).length;
  if (files === 0) throw InputError.of('source', 'holds no file');
  await pipeline(tarFolder(folder, '.'), createGzip({ level: 6 }), createWriteStream(out));
  const hash = createHash('sha256');
  await pipeline(createReadStream(out), hash);
  return { digest: hash.digest('hex'), bytes: statSync(out).size, files };
}
