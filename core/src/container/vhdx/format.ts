/** VHDX: numbers of the format, as the VHDX Format Specification 1.00 gives them. */

export const MIB = 2 ** 20;
const KIB = 1024;

export const SIGNATURE = 'vhdxfile';
export const headerOffsets = [64 * KIB, 128 * KIB] as const;
export const HEADER_BYTES = 4 * KIB;
export const regionOffsets = [192 * KIB, 256 * KIB] as const;
export const REGION_BYTES = 64 * KIB;
export const METADATA_TABLE_BYTES = 64 * KIB;

export const regions = {
  allocation: '2DC27766-F623-4200-9D64-115E9BFD4A08',
  metadata: '8B7CA206-4790-4B9A-B8FE-575F050F886E',
} as const;

export const items = {
  fileParameters: 'CAA16737-FA36-4D43-B3B6-33F0AA44E76B',
  diskBytes: '2FA54224-CD1B-4876-B211-5DBED83BF4B8',
  diskGuid: 'BECA12AB-B2E6-4523-93EF-C309E000C746',
  logicalSector: '8141BF1D-A96F-4709-BA47-F233A8FAAB5F',
  physicalSector: 'CDA348C7-445D-4471-9CC9-E9885251C556',
  /** Ours, in the room that the format leaves to users: the package's manifest as JSON. */
  manifest: '0B6A7C52-8E1D-4C3F-9A44-7D5E21B0F6C9',
} as const;

export const itemFlags = { user: 1, disk: 2, required: 4 } as const;

/** What a block of the disk is, in the low bits of its entry in the allocation table. */
export const blockState = {
  notPresent: 0,
  undefined: 1,
  zero: 2,
  unmapped: 3,
  present: 6,
  partly: 7,
} as const;

export const fileFlags = { leaveAllocated: 1, hasParent: 2 } as const;

/** Blocks we write: the smallest the format has, so that little is taken for what is nearly empty. */
export const BLOCK_BYTES = 2 ** 20;

/** Blocks of the disk between two entries for a sector bitmap. */
export function chunkRatio(blockBytes: number, sectorBytes: number): number {
  return (2 ** 23 * sectorBytes) / blockBytes;
}

/** Entries of the allocation table of a disk without parent. */
export function allocationEntries(diskBytes: number, blockBytes: number, sectorBytes: number): number {
  const blocks = Math.ceil(diskBytes / blockBytes);
  return blocks + Math.floor(Math.max(0, blocks - 1) / chunkRatio(blockBytes, sectorBytes));
}
