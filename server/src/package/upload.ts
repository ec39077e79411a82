/** Takes an uploaded capture: two inventories and the payload. Nothing is kept unless all is good. */
import { createWriteStream, mkdirSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import busboy from 'busboy';
import type { Request } from 'express';
import { openInventory } from '@vatline/files/inventory-file';
import { InputError } from '@vatline/files/input-error';
import { unpackPayload } from '@vatline/files/payload';
import type { Fault } from '@vatline/core/result';
import { invalid } from '../platform/problem.ts';

export interface UploadedCapture {
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
}

const FILES = ['before', 'after', 'payload'] as const;
const MAX_FILE_BYTES = 8e9;

/** Reads the form into the folder. Throws a refusal with a fault at each part; the folder is then gone. */
export async function receiveCapture(request: Request, folder: string): Promise<UploadedCapture> {
  mkdirSync(folder, { recursive: true });
  try {
    const form = await readForm(request, folder);
    const faults = form.faults;
    for (const file of FILES)
      if (!form.files.has(file)) faults.push({ path: file, message: `is missing; choose a file` });
    for (const field of ['name', 'publisher', 'version'])
      if (!form.fields.get(field)?.trim()) faults.push({ path: field, message: 'is empty' });
    if (faults.length === 0)
      faults.push(...checkInventory(folder, 'before'), ...checkInventory(folder, 'after'));
    if (faults.length === 0) faults.push(...(await checkPayload(folder)));
    if (faults.length > 0) throw invalid(faults);
    const field = (name: string) => form.fields.get(name)?.trim() ?? '';
    return { name: field('name'), publisher: field('publisher'), version: field('version') };
  } catch (error) {
    rmSync(folder, { recursive: true, force: true });
    throw error;
  }
}

interface Form {
  readonly fields: Map<string, string>;
  readonly files: Set<string>;
  readonly faults: Fault[];
}

async function readForm(request: Request, folder: string): Promise<Form> {
  const form: Form = { fields: new Map(), files: new Set(), faults: [] };
  const writing: Promise<void>[] = [];
  const parser = busboy({
    headers: request.headers,
    limits: { fileSize: MAX_FILE_BYTES, files: FILES.length, fields: 10 },
  });
  parser.on('field', (name, value) => form.fields.set(name, value));
  parser.on('file', (name, stream) => {
    if (!FILES.some((known) => known === name)) return void stream.resume();
    form.files.add(name);
    stream.on('limit', () => form.faults.push({ path: name, message: 'is larger than 8 GB' }));
    const target = join(folder, name === 'payload' ? 'payload.archive' : `${name}.jsonl`);
    writing.push(pipeline(stream, createWriteStream(target)));
  });
  await pipeline(request, parser);
  await Promise.all(writing);
  return form;
}

function checkInventory(folder: string, which: 'before' | 'after'): Fault[] {
  try {
    const inventory = openInventory(join(folder, `${which}.jsonl`));
    for (const _entry of inventory.entries()) continue;
    return [];
  } catch (error) {
    if (!(error instanceof InputError)) throw error;
    return error.faults.map((fault) => ({ path: which, message: `${fault.path} ${fault.message}` }));
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
