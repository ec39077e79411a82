/** The text of a file that a person chose. Nothing here rejects: what went wrong is in the answer. */
import { ok, type Result } from '@vatline/core/result';
import { size } from './format.ts';

/** The text, or in a sentence why it was not read: it is larger than a file of its kind, or has gone. */
export async function textOfFile(file: File, mostBytes: number): Promise<Result<string, string>> {
  if (file.size > mostBytes)
    return { ok: false, error: `${file.name} is larger than ${size(mostBytes)} and was not read` };
  try {
    return ok(await file.text());
  } catch {
    // It was moved or changed since it was chosen, or may not be read.
    return { ok: false, error: `${file.name} could not be read; choose it again` };
  }
}
