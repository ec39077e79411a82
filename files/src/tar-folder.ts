import { createReadStream, readdirSync, readlinkSync, statSync } from 'node:fs';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import tar from 'tar-stream';

/**
 * The files and links of a folder as one tar stream, its paths below `name`; links stay links. An
 * error of a file is the stream's.
 */
export function tarFolder(folder: string, name: string): Readable {
  const pack = tar.pack();
  void fill(pack, folder, name).then(
    () => pack.finalize(),
    (error: unknown) => pack.destroy(error as Error),
  );
  return pack as unknown as Readable;
}

async function fill(pack: tar.Pack, folder: string, name: string): Promise<void> {
  for (const child of readdirSync(folder, { withFileTypes: true }).sort((a, b) =>
    a.name < b.name ? -1 : 1,
  )) {
    const path = join(folder, child.name);
    if (child.isDirectory()) {
      await fill(pack, path, `${name}/${child.name}`);
      continue;
    }
    const common = { name: `${name}/${child.name}`, mode: 0o644, mtime: new Date(0) };
    if (child.isSymbolicLink()) pack.entry({ ...common, type: 'symlink', linkname: readlinkSync(path) });
    else {
      const entry = pack.entry({ ...common, size: statSync(path).size });
      await pipeline(createReadStream(path), entry as unknown as NodeJS.WritableStream);
    }
  }
}
