/** How one format of container is told from another. */
import { existsSync, statSync } from 'node:fs';
import { join } from 'node:path';
import { isSquashfs } from '@vatline/core/container/squashfs/superblock';
import { isVhdx } from '@vatline/core/container/vhdx/disk-reader';
import { FileSource } from './byte-files.ts';
import { InputError } from './input-error.ts';

/** Looks at the first bytes, not at the name. Throws `InputError` for what is no container. */
export async function formatOf(path: string): Promise<'squashfs' | 'vhdx' | 'oci'> {
  const stat = statSync(path, { throwIfNoEntry: false });
  if (!stat) throw InputError.of(path, 'is not there');
  if (stat.isDirectory()) {
    if (existsSync(join(path, 'oci-layout'))) return 'oci';
    throw InputError.of(path, 'is not an OCI image layout: it has no file oci-layout');
  }
  const source = FileSource.open(path);
  try {
    const start = await source.read(0, Math.min(8, source.size));
    if (isSquashfs(start)) return 'squashfs';
    if (isVhdx(start)) return 'vhdx';
  } finally {
    source.close();
  }
  throw InputError.of(path, 'is no container: neither a SquashFS image, a VHDX disk nor an OCI image layout');
}
