/** Reading the uploaded source of an installation, run in the worker pool for what comes from outside. */
import type { Fault } from '@vatline/core/result';
import { archiveFolder, type Archived } from '@vatline/files/archive-folder';
import { InputError } from '@vatline/files/input-error';
import { unpackPayload } from '@vatline/files/payload';
import { atField } from '../platform/problem.ts';

export interface SourceTask {
  /** The uploaded archive. */
  readonly archive: string;
  /** Where it is unpacked meanwhile. */
  readonly folder: string;
  /** Where the archive goes that is kept. */
  readonly out: string;
}

/** Makes of an uploaded source the one archive that is kept; faults are at the field `source`. */
export async function readUploadedSource(task: SourceTask): Promise<Archived | Fault[]> {
  try {
    await unpackPayload(task.archive, task.folder);
    return await archiveFolder(task.folder, task.out);
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return atField('source', error.faults);
  }
}
