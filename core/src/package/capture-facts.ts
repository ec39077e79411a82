/** What was read from a capture besides the difference: from the files themselves, and from the machine before. */
import type { CleanCheck } from './clean-machine.ts';
import type { PictureFacts } from './program/picture.ts';
import type { ProgramFacts } from './program/program-file.ts';

export interface CaptureFacts {
  readonly clean: readonly CleanCheck[];
  /** Program files by path; what is none is left out. A text where one cannot be read. */
  readonly programs: Readonly<Record<string, ProgramFacts | string>>;
  readonly pictures: Readonly<Record<string, PictureFacts>>;
  /** Entries of each installer where there were several, as `ownerKey` names them. */
  readonly owners: readonly { readonly name: string; readonly entries: readonly string[] }[];
}

export const noFacts: CaptureFacts = { clean: [], programs: {}, pictures: {}, owners: [] };

/** Endings of files that are looked into. */
export const programEnding = /\.(exe|dll|ocx|sys|scr|com)$/i;
export const pictureEnding = /\.(ico|png)$/i;
