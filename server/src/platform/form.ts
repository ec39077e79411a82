/** Uploaded forms: fields in memory, files streamed into a folder. */
import { createWriteStream, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import busboy from 'busboy';
import type { Request } from 'express';
import type { Fault } from '@vatline/core/result';
import { openInventory } from '@vatline/files/inventory-file';
import { InputError } from '@vatline/files/input-error';
import { invalid } from './problem.ts';

export interface UploadedForm {
  readonly fields: ReadonlyMap<string, string>;
  /** Paths of the files that came, by the name of their field. */
  readonly files: ReadonlyMap<string, string>;
  /** Files that were too large. */
  readonly faults: Fault[];
}

/** Reads a form; `fileNames` gives what each file is to be called in the folder. Other files are passed over. */
export async function readForm(
  request: Request,
  folder: string,
  fileNames: Readonly<Record<string, string>>,
  maxFileBytes: number,
): Promise<UploadedForm> {
  if (!request.is('multipart/form-data')) throw invalid([{ path: '', message: 'send it as a form' }]);
  mkdirSync(folder, { recursive: true });
  const fields = new Map<string, string>();
  const files = new Map<string, string>();
  const faults: Fault[] = [];
  const writing: Promise<void>[] = [];
  const parser = busboy({
    headers: request.headers,
    limits: { fileSize: maxFileBytes, files: Object.keys(fileNames).length, fields: 10 },
  });
  parser.on('field', (name, value) => fields.set(name, value));
  parser.on('file', (name, stream) => {
    const fileName = fileNames[name];
    if (fileName === undefined) return void stream.resume();
    const path = join(folder, fileName);
    files.set(name, path);
    stream.on('limit', () =>
      faults.push({
        path: name,
        message: `is larger than ${(maxFileBytes / 1e9).toLocaleString('en-GB')} GB`,
      }),
    );
    writing.push(pipeline(stream, createWriteStream(path)));
  });
  await pipeline(request, parser);
  await Promise.all(writing);
  return { fields, files, faults };
}

/** What is wrong with an uploaded inventory, as faults at its field; reads all of it. */
export function inventoryFaults(file: string, field: string): Fault[] {
  try {
    for (const _entry of openInventory(file).entries()) continue;
    return [];
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return error.faults.map((fault) => ({ path: field, message: `${fault.path} ${fault.message}` }));
  }
}
