import type { ContainerFormat } from '@vatline/contract/package';

/** What the formats are called, and what each is for. */
export const formatNames: Record<ContainerFormat, readonly [string, string]> = {
  squashfs: ['Compressed, read-only', 'SquashFS: smallest, one file, unpacked as it is read'],
  vhdx: ['Disk, expandable', 'VHDX with FAT32: takes what its content takes; no links, no file of 4 GiB'],
  'vhdx-fixed': ['Disk, fixed', 'VHDX with FAT32 at its full size from the start'],
  oci: ['Layer', 'OCI image layout: tar with gzip, for tools that lay layers over each other'],
};
