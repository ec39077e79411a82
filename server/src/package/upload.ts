/** Takes an uploaded capture: two inventories and the payload. Nothing is kept unless all is good. */
import { rmSync } from 'node:fs';
import { join } from 'node:path';
import type { Request } from 'express';
import { InputError } from '@vatline/files/input-error';
import { unpackPayload } from '@vatline/files/payload';
import type { Fault } from '@vatline/core/result';
import { inventoryFaults, readForm } from '../platform/form.ts';
import { invalid } from '../platform/problem.ts';

export interface UploadedCapture {
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
}

const FILES = { before: 'before.jsonl', after: 'after.jsonl', payload: 'payload.archive' };
const MAX_FILE_BYTES = 8e9;

/** Reads the form into the folder. Throws a refusal with a fault at each part; the folder is then gone. */
export async function receiveCapture(request: Request, folder: string): Promise<UploadedCapture> {
  try {
    const form = await readForm(request, folder, FILES, MAX_FILE_BYTES);
    const faults = form.faults;
    for (const file of Object.keys(FILES))
      if (!form.files.has(file)) faults.push({ path: file, message: `is missing; choose a file` });
    for (const field of ['name', 'publisher', 'version'])
      if (!form.fields.get(field)?.trim()) faults.push({ path: field, message: 'is empty' });
    if (faults.length === 0)
      for (const which of ['before', 'after'] as const)
        faults.push(...inventoryFaults(join(folder, FILES[which]), which));
    if (faults.length === 0) faults.push(...(await checkPayload(folder)));
    if (faults.length > 0) throw invalid(faults);
    const field = (name: string) => form.fields.get(name)?.trim() ?? '';
    return { name: field('name'), publisher: field('publisher'), version: field('version') };
  } catch (error) {
    rmSync(folder, { recursive: true, force: true });
    throw error;
  }
}

async function checkPayload(folder: string): Promise<Fault[]> {
  const archive = join(folder, 'payload.archive');
  try {
    await unpackPayload(archive, join(folder, 'payload'));
    rmSync(archive);
    return [];
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return error.faults.map((fault) => ({
      path: 'payload',
      message: `${fault.path} ${fault.message}`.trim(),
    }));
  }
}
