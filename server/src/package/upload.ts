/**
 * Receives a capture from a machine of one's own: inventories before and after with a payload
 * archive, or the payload alone with or without a registry export. Nothing is kept unless all of it is good.
 */
import { rm } from 'node:fs/promises';
import type { Request } from 'express';
import { readForm, type FormFile } from '../platform/form.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import { uploadedNames } from './upload-worker.ts';
import { uploadWork } from './work.ts';

export interface UploadedCapture {
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
}

/** An inventory of 2,000,000 entries has half of this; the registry of a whole machine, in UTF-16, 300 MB. */
const files: Readonly<Record<keyof typeof uploadedNames, FormFile>> = {
  before: { name: uploadedNames.before, maxBytes: 1e9 },
  after: { name: uploadedNames.after, maxBytes: 1e9 },
  payload: { name: uploadedNames.payload, maxBytes: 8e9 },
  registry: { name: uploadedNames.registry, maxBytes: 500e6 },
};

/** Reads the form into the folder. Throws a refusal with a fault at each part; the folder is then gone. */
export async function receiveCapture(
  request: Request,
  parts: Pick<Parts, 'workers'>,
  folder: string,
): Promise<UploadedCapture> {
  try {
    const form = await readForm(request, folder, files);
    const { faults } = form;
    const has = (file: keyof typeof files) => form.files.has(file);
    const bothOrNone = has('before') === has('after');
    if (!has('payload')) faults.push({ path: 'payload', message: 'is missing; choose a file' });
    if (!bothOrNone)
      faults.push({
        path: has('before') ? 'after' : 'before',
        message: 'is missing; choose a file, or leave out the other inventory too',
      });
    for (const field of ['name', 'publisher', 'version'])
      if (!form.fields.get(field)?.trim()) faults.push({ path: field, message: 'is empty' });
    if (faults.length === 0)
      faults.push(
        ...(await uploadWork(parts, 'readUploadedCapture', {
          folder,
          hasInventories: has('before'),
          hasRegistry: has('registry'),
        })),
      );
    if (faults.length > 0) throw invalid(faults);
    const field = (name: string) => form.fields.get(name)?.trim() ?? '';
    return { name: field('name'), publisher: field('publisher'), version: field('version') };
  } catch (error) {
    await rm(folder, { recursive: true, force: true });
    throw error;
  }
}
