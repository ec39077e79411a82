/** Numbers of the tar format: POSIX.1-2001 (ustar and pax), and what GNU tar adds. */

/** Everything in a tar file comes in blocks of this many bytes. */
export const TAR_BLOCK = 512;

/** The type flag of each kind of entry, and of those that tell of the next one. */
export const typeFlags = {
  file: '0',
  same: '1',
  link: '2',
  folder: '5',
  extended: 'x',
  extendedForAll: 'g',
  gnuLongPath: 'L',
  gnuLongTarget: 'K',
} as const;

/** Before the name of an extended attribute in a pax record; the key that common tools use. */
export const ATTRIBUTE_KEY = 'SCHILY.xattr.';

/** Zero bytes that fill up the last block after so many bytes of content. */
export function tarPadding(size: number): number {
  return (TAR_BLOCK - (size % TAR_BLOCK)) % TAR_BLOCK;
}
