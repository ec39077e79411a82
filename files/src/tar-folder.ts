import { createReadStream, readdirSync, readlinkSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { Readable } from 'node:stream';
import { TAR_BLOCK, tarPadding } from '@vatline/core/container/tar/format';
import { tarHeader } from '@vatline/core/container/tar/write-header';

/**
 * The files and links of a folder as one tar stream, its paths below `name`; links stay links. An
 * error of a file is the stream's.
 */
export function tarFolder(folder: string, name: string): Readable {
  return Readable.from(wholeTar(folder, name), { objectMode: false });
}

async function* wholeTar(folder: string, name: string): AsyncGenerator<Uint8Array> {
  yield* entriesOf(folder, name);
  yield new Uint8Array(2 * TAR_BLOCK);
}

async function* entriesOf(folder: string, name: string): AsyncGenerator<Uint8Array> {
  const children = readdirSync(folder, { withFileTypes: true });
  for (const child of children.sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const source = join(folder, child.name);
    const common = { path: `${name}/${child.name}`, mode: 0o644, modified: 0 };
    if (child.isDirectory()) yield* entriesOf(source, common.path);
    else if (child.isSymbolicLink())
      yield tarHeader({ ...common, type: 'link', size: 0, target: readlinkSync(source) });
    else yield* fileEntry(source, common);
  }
}

async function* fileEntry(
  source: string,
  common: { path: string; mode: number; modified: number },
): AsyncGenerator<Uint8Array> {
  const { size } = statSync(source);
  yield tarHeader({ ...common, type: 'file', size });
  let read = 0;
  for await (const piece of createReadStream(source) as AsyncIterable<Buffer>) {
    read += piece.length;
    if (read > size) break;
    yield piece;
  }
  // What stands behind would be read as content otherwise.
  if (read !== size) throw new Error(`${common.path} changed while it was read`);
  yield new Uint8Array(tarPadding(size));
}
