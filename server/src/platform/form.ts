/** Uploaded forms: fields in memory, files streamed into a folder. */
import { createWriteStream, mkdirSync } from 'node:fs';
import { join } from 'node:path';
import { pipeline } from 'node:stream/promises';
import busboy from 'busboy';
import type { Request } from 'express';
import type { Fault } from '@vatline/core/result';
import { invalid, Refusal } from './problem.ts';

export interface UploadedForm {
  readonly fields: ReadonlyMap<string, string>;
  /** Paths of the files that came, by the name of their field. */
  readonly files: ReadonlyMap<string, string>;
  /** Files and fields that were too large. */
  readonly faults: Fault[];
}

/** A file that a form takes. */
export interface FormFile {
  /** What it is called in the folder. */
  readonly name: string;
  readonly maxBytes: number;
}

/** Names, notes and passwords; nobody types more. */
const MOST_FIELD_BYTES = 4096;
const MOST_FIELDS = 10;
/** Beside its files: boundaries, headers of parts, fields. */
const ROOM_FOR_FORM = 1_000_000;

/**
 * Reads a form to its end; files that are not asked for are passed over. Throws a refusal when it
 * is no form, is larger than its files may be, or breaks off; nothing is being written any more then.
 */
export async function readForm(
  request: Request,
  folder: string,
  taken: Readonly<Record<string, FormFile>>,
): Promise<UploadedForm> {
  const parser = parserOf(request, Object.keys(taken).length);
  const mostBytes = Object.values(taken).reduce((sum, file) => sum + file.maxBytes, ROOM_FOR_FORM);
  if (Number(request.headers['content-length'] ?? 0) > mostBytes) throw tooLarge(mostBytes);
  mkdirSync(folder, { recursive: true });
  const fields = new Map<string, string>();
  const files = new Map<string, string>();
  const faults: Fault[] = [];
  const writing: Promise<void>[] = [];
  let failure: unknown;
  const fail = (error: unknown) => {
    failure ??= error;
    parser.destroy();
  };
  parser.on('field', (name, value, { valueTruncated }) => {
    if (valueTruncated) faults.push({ path: name, message: `has over ${MOST_FIELD_BYTES} characters` });
    fields.set(name, value);
  });
  parser.on('file', (name, stream) => {
    const file = Object.hasOwn(taken, name) ? taken[name] : undefined;
    // One that is passed over breaks off as well, and an error that nobody hears ends the process.
    if (file === undefined || files.has(name)) return void stream.on('error', () => undefined).resume();
    const path = join(folder, file.name);
    files.set(name, path);
    const onOver = () => faults.push({ path: name, message: `is larger than ${sizeInWords(file.maxBytes)}` });
    const kept = (source: AsyncIterable<Buffer>) => atMost(source, file.maxBytes, onOver);
    // Waited for from the first moment: a form that breaks off breaks off its files, too.
    writing.push(pipeline(stream, kept, createWriteStream(path)).catch(fail));
  });
  await feed(request, parser, mostBytes).catch(fail);
  await Promise.all(writing);
  if (failure !== undefined) throw refusalOf(failure);
  return { fields, files, faults };
}

function parserOf(request: Request, files: number): busboy.Busboy {
  if (!request.is('multipart/form-data')) throw invalid([{ path: '', message: 'send it as a form' }]);
  try {
    return busboy({
      headers: request.headers,
      limits: {
        files: files + 1,
        fields: MOST_FIELDS,
        fieldSize: MOST_FIELD_BYTES,
        parts: files + 1 + MOST_FIELDS,
      },
    });
  } catch (error) {
    throw refusalOf(error);
  }
}

/**
 * Gives a request to the parser. Not by a pipeline, which would end the connection with the first
 * error, and with it the way for the answer.
 */
function feed(request: Request, parser: busboy.Busboy, mostBytes: number): Promise<void> {
  return new Promise<void>((done, fail) => {
    let bytes = 0;
    request
      .on('data', (piece: Buffer) => {
        bytes += piece.length;
        if (bytes > mostBytes) fail(tooLarge(mostBytes));
      })
      // The connection ended; what it says of itself is no fault of ours.
      .on('error', () => fail(brokenOff()))
      .on('close', () => {
        if (!request.complete) fail(brokenOff());
      });
    parser.on('error', fail).on('close', () => done());
    request.pipe(parser);
  }).finally(() => request.unpipe(parser));
}

/** Passes on no more than so many bytes and lets the rest go by, so that all faults of a form are found at once. */
async function* atMost(
  source: AsyncIterable<Buffer>,
  bytes: number,
  onOver: () => void,
): AsyncGenerator<Buffer> {
  let left = bytes;
  for await (const piece of source) {
    if (left < 0) continue;
    left -= piece.length;
    if (left < 0) onOver();
    else yield piece;
  }
}

function brokenOff(): Refusal {
  return new Refusal(400, 'Cannot be read', 'The upload broke off before its end');
}

function tooLarge(bytes: number): Refusal {
  return new Refusal(
    413,
    'Cannot be read',
    `The form is larger than the ${sizeInWords(bytes)} that it may be`,
  );
}

function sizeInWords(bytes: number): string {
  const [unit, of] = bytes >= 1e9 ? ['GB', 1e9] : ['MB', 1e6];
  return `${(bytes / of).toLocaleString('en-GB')} ${unit}`;
}

/** What the parser says is about the form; what the system says is not, and stays as it is. */
function refusalOf(error: unknown): unknown {
  if (error instanceof Refusal || typeof (error as NodeJS.ErrnoException).code === 'string') return error;
  const why = error instanceof Error ? error.message : String(error);
  return new Refusal(400, 'Cannot be read', `This is no form that can be read: ${why}`);
}
