/**
 * Numbers of `rasd:ResourceType`, from the value map of CIM_ResourceAllocationSettingData
 * (DMTF DSP0004 schema 2.22), as OVF 1.1 (DSP0243) uses them, and what they stand for here.
 */
import type { Disk, LegacyDevice } from '../hardware.ts';

export const resourceType = {
  processor: 3,
  memory: 4,
  ideController: 5,
  scsiController: 6,
  ethernetAdapter: 10,
  floppyDrive: 14,
  cdDrive: 15,
  dvdDrive: 16,
  diskDrive: 17,
  otherStorage: 20,
  serialPort: 21,
  parallelPort: 22,
  graphics: 24,
} as const;

export const legacyResource: Record<LegacyDevice, number> = {
  'floppy drive': resourceType.floppyDrive,
  'optical drive': resourceType.dvdDrive,
  'serial port': resourceType.serialPort,
  'parallel port': resourceType.parallelPort,
};

/** A controller kind as the standard's resource type; the subtype names it where the type does not. */
export const controllerResource: Record<Disk['controller'], number> = {
  ide: resourceType.ideController,
  scsi: resourceType.scsiController,
  'para-virtual': resourceType.scsiController,
  sata: resourceType.otherStorage,
  nvme: resourceType.otherStorage,
};

/** Our own additions: elements and attributes that another reader may leave out. */
export const ovfNamespaces = {
  ovf: 'http://schemas.dmtf.org/ovf/envelope/1',
  rasd: 'http://schemas.dmtf.org/wbem/wscim/1/cim-schema/2/CIM_ResourceAllocationSettingData',
  vssd: 'http://schemas.dmtf.org/wbem/wscim/1/cim-schema/2/CIM_VirtualSystemSettingData',
  vl: 'urn:vatline:hardware:1',
} as const;
