/** Directories as files: LDIF taken in from elsewhere, and given out. */
import { mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Request } from 'express';
import { directoryFileEndpoints } from '@vatline/contract/directory';
import {
  computerRecords,
  unitRecords,
  type ComputerEntry,
  type DirectoryEntries,
} from '@vatline/core/directory/entries';
import { MOST_LDIF_BYTES, writeLdif } from '@vatline/core/directory/ldif';
import type { Door } from '../platform/door.ts';
import { readForm } from '../platform/form.ts';
import type { Parts } from '../platform/parts.ts';
import { practiceOnly } from '../platform/practice-only.ts';
import { invalid } from '../platform/problem.ts';
import { workOf } from '../platform/workers.ts';
import { directoryNote } from './note.ts';
import type * as directoryFunctions from './directory-worker.ts';

const directoryWork = workOf<typeof directoryFunctions>('directory/directory-worker.js', 'intake');
const FILES = { file: { name: 'directory.ldif', maxBytes: MOST_LDIF_BYTES } };

export function directoryFileRoutes(door: Door, parts: Parts): void {
  const { directory } = parts.estate;

  door.serveRaw(directoryFileEndpoints.import, async ({ request }) => {
    const control = practiceOnly(parts);
    const entries = await receive(request, parts);
    const counts = await control.takeEntries(entries);
    const { units, computers, people, groups } = counts;
    await directoryNote(
      parts,
      `A directory was taken in: ${units} units, ${computers} computers, ${people} people and ${groups} groups are new`,
    );
    return { ...counts, others: entries.others };
  });

  door.serveRaw(directoryFileEndpoints.export, async ({ query: { pool }, response }) => {
    const units = await directory.units();
    const ofPool = pool === undefined ? undefined : await namesOfPool(parts, pool);
    const computers: ComputerEntry[] = [];
    for (const { dn, computers: count } of units)
      if (count > 0)
        for (const name of await directory.computersIn(dn))
          if (ofPool?.has(name) !== false) computers.push({ name, unit: dn });
    const above = ofPool ? [] : unitRecords(directory.root, units);
    response
      .attachment(ofPool ? 'accounts.ldif' : 'directory.ldif')
      .type(directoryFileEndpoints.export.gives)
      .send(writeLdif([...above, ...computerRecords(computers)]));
  });
}

async function receive(request: Request, parts: Parts): Promise<DirectoryEntries> {
  const folder = await mkdtemp(join(tmpdir(), 'vatline-directory-'));
  try {
    const { files, faults } = await readForm(request, folder, FILES);
    const path = files.get('file');
    if (!path) faults.push({ path: 'file', message: 'is missing; choose a file' });
    if (faults.length > 0 || !path) throw invalid(faults);
    const read = await directoryWork(parts, 'readDirectory', { path, root: parts.estate.directory.root });
    if (!('units' in read)) throw invalid(read);
    return read;
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}

async function namesOfPool({ db }: Parts, pool: string): Promise<ReadonlySet<string>> {
  const rows = await db.selectFrom('host').select('name').where('pool_id', '=', pool).execute();
  return new Set(rows.map((row) => row.name));
}
