/** Looks into the files of a capture: what its programs and pictures say of themselves. */
import { readFileSync, statSync } from 'node:fs';
import { ContainerFault } from '@vatline/core/container/bytes';
import type { Entry } from '@vatline/core/inventory/entry';
import { pictureEnding, programEnding, type CaptureFacts } from '@vatline/core/package/capture-facts';
import { readPicture, type PictureFacts } from '@vatline/core/package/program/picture';
import { readProgram, type ProgramFacts } from '@vatline/core/package/program/program-file';
import { FileSource } from './byte-files.ts';
import { realPathIn } from './inside.ts';

/** A picture above this is not for showing an application with. */
const MOST_PICTURE = 2_000_000;

/** Reads the programs and pictures among entries; what cannot be read is told in words. */
export async function readFacts(
  folder: string,
  entries: readonly Entry[],
): Promise<Pick<CaptureFacts, 'programs' | 'pictures'>> {
  const programs: Record<string, ProgramFacts | string> = {};
  const pictures: Record<string, PictureFacts> = {};
  for (const entry of entries) {
    if (entry.kind !== 'file') continue;
    // What an inventory names need not be in the payload, and may lead anywhere.
    const path = realPathIn(folder, entry.path);
    if (path === undefined || !statSync(path).isFile()) continue;
    if (programEnding.test(entry.path)) {
      const facts = await programAt(path);
      if (facts) programs[entry.path] = facts;
    } else if (pictureEnding.test(entry.path) && entry.size <= MOST_PICTURE) {
      const facts = statSync(path).size <= MOST_PICTURE ? readPicture(readFileSync(path)) : undefined;
      if (facts) pictures[entry.path] = facts;
    }
  }
  return { programs, pictures };
}

async function programAt(path: string): Promise<ProgramFacts | string | undefined> {
  const source = FileSource.open(path);
  try {
    return await readProgram(source);
  } catch (error) {
    if (error instanceof ContainerFault) return `cannot be read: it ${error.message}`;
    throw error;
  } finally {
    source.close();
  }
}
