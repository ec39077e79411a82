/** Reads the table of the numbers of users and groups that entries of an image belong to. */
import { ContainerFault, type ByteSource } from '../bytes.ts';
import { StructReader } from '../struct.ts';
import { METADATA_BYTES } from './format.ts';
import type { MetadataReader } from './metadata-reader.ts';
import type { Superblock } from './superblock.ts';

const OWNERS_A_BLOCK = METADATA_BYTES / 4;

/** Throws `ContainerFault` for a table that lies outside of the image. */
export async function readOwners(
  source: ByteSource,
  superblock: Superblock,
  metadata: MetadataReader,
): Promise<number[]> {
  const { owners: count, ownerTable } = superblock;
  const blocks = Math.ceil(count / OWNERS_A_BLOCK);
  if (ownerTable + blocks * 8 > superblock.used)
    throw new ContainerFault('has a table of owners that lies outside of it');
  const starts = new StructReader(await source.read(ownerTable, blocks * 8), 'the table of owners');
  const owners: number[] = [];
  for (let block = 0; block < blocks; block++) {
    const held = Math.min(OWNERS_A_BLOCK, count - owners.length);
    const place = metadata.at(starts.u64(), { block: 0, offset: 0 });
    const read = new StructReader(await place.take(held * 4), 'the table of owners');
    for (let i = 0; i < held; i++) owners.push(read.u32());
  }
  return owners;
}
