/** The formats that containers are built in. */
export const containerFormats = ['squashfs', 'vhdx', 'vhdx-fixed', 'oci'] as const;
export type ContainerFormat = (typeof containerFormats)[number];

/** What each is called on screen. */
export const formatNames: Readonly<Record<ContainerFormat, string>> = {
  squashfs: 'Compressed, read-only',
  vhdx: 'Disk, expandable',
  'vhdx-fixed': 'Disk, fixed',
  oci: 'Layer',
};
