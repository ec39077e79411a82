import { createReadStream, readdirSync, statSync } from 'node:fs';
import { join } from 'node:path';
import type { Readable } from 'node:stream';
import { finished } from 'node:stream/promises';
import tar from 'tar-stream';

/** A folder of plain files as one tar stream, its paths below `name`. For downloads. */
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
    const entry = pack.entry({
      name: `${name}/${child.name}`,
      size: statSync(path).size,
      mode: 0o644,
      mtime: new Date(0),
    });
    createReadStream(path).pipe(entry as unknown as NodeJS.WritableStream);
    await finished(entry as unknown as NodeJS.WritableStream);
  }
}
