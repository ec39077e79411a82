import type { ContainerFormat } from '@vatline/core/container/formats';

/** What each format is for. */
export const formatUses: Record<ContainerFormat, string> = {
  squashfs: 'SquashFS: smallest, one file, unpacked as it is read',
  vhdx: 'VHDX with FAT32: takes what its content takes; no links, no file of 4 GiB',
  'vhdx-fixed': 'VHDX with FAT32 at its full size from the start',
  oci: 'OCI image layout: tar with gzip, for tools that lay layers over each other',
};
