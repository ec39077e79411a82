/** The hardware of a build machine. Lean: what a host does not need, it polls or pages for ever. */

export const diskControllers = ['para-virtual', 'nvme', 'scsi', 'sata', 'ide'] as const;
export const networkKinds = ['para-virtual', 'emulated'] as const;
export const firmwareKinds = ['uefi', 'bios'] as const;
/** A display only, a share of a graphics card, or a card of its own. */
export const graphicsKinds = ['display only', 'shared card', 'whole card'] as const;
/** Devices that nobody on a host has a use for. */
export const legacyDevices = ['floppy drive', 'optical drive', 'serial port', 'parallel port'] as const;

export type LegacyDevice = (typeof legacyDevices)[number];

/** Disks of one machine. */
export const MOST_DISKS = 8;

export interface Disk {
  readonly sizeBytes: number;
  readonly controller: (typeof diskControllers)[number];
  /** Whether it takes space only as it fills up. */
  readonly thin: boolean;
}

/** Memory and disks in bytes. */
export interface Hardware {
  readonly processors: number;
  readonly memoryBytes: number;
  /** The first one holds the system. */
  readonly disks: readonly Disk[];
  readonly network: (typeof networkKinds)[number];
  readonly firmware: (typeof firmwareKinds)[number];
  readonly graphics: (typeof graphicsKinds)[number];
  /** Those it has; none is best. */
  readonly legacy: readonly LegacyDevice[];
}

/** What a line begins with until an assessment says otherwise. */
export const leanHardware: Hardware = {
  processors: 2,
  memoryBytes: 8e9,
  disks: [{ sizeBytes: 64e9, controller: 'para-virtual', thin: true }],
  network: 'para-virtual',
  firmware: 'uefi',
  graphics: 'display only',
  legacy: [],
};

/** Bytes of all disks together. */
export function diskBytesOf(hardware: Pick<Hardware, 'disks'>): number {
  return hardware.disks.reduce((total, disk) => total + disk.sizeBytes, 0);
}
