/**
 * SquashFS 4.0: numbers of the format, as the documentation in the kernel's source tree
 * (Documentation/filesystems/squashfs.rst and fs/squashfs/squashfs_fs.h) gives them.
 */

export const MAGIC = 0x73717368;
export const SUPERBLOCK_BYTES = 96;
/** Metadata comes in blocks of this many bytes before compression. */
export const METADATA_BYTES = 8192;
/** Blocks of data we write; images of others may have 4 KiB to 1 MiB. */
export const DATA_BYTES = 128 * 1024;
export const MIN_DATA_BYTES = 4096;
export const MAX_DATA_BYTES = 1024 * 1024;

export const ZLIB = 1;
export const compressions = ['', 'zlib', 'lzma', 'lzo', 'xz', 'lz4', 'zstd'] as const;

/** In the length of a metadata block: the block is stored as it is. */
export const METADATA_STORED = 0x8000;
/** In the size of a data block or fragment: the block is stored as it is. */
export const DATA_STORED = 1 << 24;
export const NONE_32 = 0xffffffff;

export const flags = { duplicates: 0x40, noXattrs: 0x200 } as const;

/** Namespaces of extended attributes by their number; the format has no other. */
export const attributeSpaces = ['user.', 'trusted.', 'security.'] as const;
/** In the type of an attribute: its value stands elsewhere, since others have the same. */
export const VALUE_ELSEWHERE = 0x100;
/** Bytes of a row that says where the attributes of an inode are. */
export const ATTRIBUTE_ROW_BYTES = 16;

export const inodeType = {
  folder: 1,
  file: 2,
  link: 3,
  extendedFolder: 8,
  extendedFile: 9,
  extendedLink: 10,
} as const;

/** Entries under one header of a listing, and bytes of a name. */
export const MOST_UNDER_HEADER = 256;
export const MOST_NAME_BYTES = 256;
/** The image is padded to a multiple of this, as a block device wants it. */
export const PADDING = 4096;
