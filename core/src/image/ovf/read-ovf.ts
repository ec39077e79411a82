/**
 * Reads the hardware of one virtual system from an OVF 1.1 descriptor (DMTF DSP0243), ours or
 * another's. A descriptor is foreign text: document types and entities are refused unread, and so
 * is anything over a megabyte.
 */
import { XMLParser, XMLValidator } from 'fast-xml-parser';
import {
  firmwareKinds,
  graphicsKinds,
  legacyDevices,
  networkKinds,
  type Disk,
  type Hardware,
} from '../hardware.ts';
import { ok, refuse, refuseAll, type Fault, type Result } from '../../result.ts';
import { legacyResource, ovfNamespaces, resourceType } from './resource-types.ts';
import { bytesOf } from './allocation-units.ts';

export interface OvfMachine {
  readonly name: string;
  readonly hardware: Hardware;
  /** What could not be read as it stands, and what was taken instead. */
  readonly remarks: readonly string[];
}

const MAX_CHARACTERS = 1_000_000;

interface Item {
  readonly InstanceID?: string;
  readonly Parent?: string;
  readonly ResourceType?: string;
  readonly ResourceSubType?: string;
  readonly VirtualQuantity?: string;
  readonly AllocationUnits?: string;
  readonly HostResource?: string;
}
type Node = Record<string, unknown>;

/** Errors: not XML (with line), not OVF 1.1, no or several systems, no processors, memory or disk, unknown units. */
export function readOvf(text: string): Result<OvfMachine> {
  const envelope = parseEnvelope(text);
  if (!envelope.ok) return envelope;
  const system = onlySystem(envelope.value);
  if (!system.ok) return system;
  const section = system.value['VirtualHardwareSection'] as Node | undefined;
  if (!section) return refuse('VirtualHardwareSection', 'is missing: the descriptor names no hardware');
  return hardwareOf(envelope.value, system.value, section);
}

function parseEnvelope(text: string): Result<Node> {
  if (text.length > MAX_CHARACTERS)
    return refuse(
      'file',
      `has ${text.length.toLocaleString('en-GB')} characters; a descriptor has at most 1,000,000`,
    );
  if (/<!(DOCTYPE|ENTITY)/i.test(text))
    return refuse('file', 'declares a document type or entities, which no descriptor needs; take them out');
  const valid = XMLValidator.validate(text);
  if (valid !== true) return refuse('file', `is not XML, line ${valid.err.line}: ${valid.err.msg}`);
  const parser = new XMLParser({
    ignoreAttributes: false,
    removeNSPrefix: true,
    parseTagValue: false,
    parseAttributeValue: false,
    isArray: (name) => ['Item', 'Disk', 'VirtualSystem'].includes(name),
  });
  let root: Node;
  try {
    root = parser.parse(text) as Node;
  } catch (error) {
    return refuse('file', `cannot be read: ${(error as Error).message}`);
  }
  const envelope = root['Envelope'];
  if (typeof envelope !== 'object') return refuse('Envelope', 'is missing: this is not an OVF descriptor');
  if (!text.includes(`"${ovfNamespaces.ovf}"`) && !text.includes(`'${ovfNamespaces.ovf}'`))
    return refuse('Envelope', `is not of OVF 1.1: its namespace is not ${ovfNamespaces.ovf}`);
  return ok(envelope as Node);
}

function onlySystem(envelope: Node): Result<Node> {
  if (envelope['VirtualSystemCollection'])
    return refuse('VirtualSystemCollection', 'holds several machines; a build machine is one VirtualSystem');
  const systems = (envelope['VirtualSystem'] ?? []) as Node[];
  const [system] = systems;
  if (!system) return refuse('VirtualSystem', 'is missing: the descriptor describes no machine');
  return systems.length === 1
    ? ok(system)
    : refuse('VirtualSystem', `stands ${systems.length} times; a build machine is one`);
}

function hardwareOf(envelope: Node, system: Node, section: Node): Result<OvfMachine> {
  const faults: Fault[] = [];
  const remarks: string[] = [];
  const items = ((section['Item'] ?? []) as Item[]).filter((item) => typeof item === 'object');
  const processors = countOf(first(items, resourceType.processor), 'processors', faults);
  const memoryBytes = memoryOf(first(items, resourceType.memory), faults);
  const disks = disksOf(envelope, items, faults, remarks);
  if (faults.length > 0) return refuseAll(faults);
  const hardware: Hardware = {
    processors,
    memoryBytes,
    disks,
    network: networkOf(items, remarks),
    firmware: firmwareOf(section, remarks),
    graphics: graphicsOf(items, remarks),
    legacy: legacyDevices.filter((device) => {
      const wanted = [legacyResource[device], ...(device === 'optical drive' ? [resourceType.cdDrive] : [])];
      return items.some((item) => wanted.includes(Number(item.ResourceType)));
    }),
  };
  return ok({ name: textOf(system['Name']) ?? textOf(system['@_id']) ?? '', hardware, remarks });
}

const first = (items: readonly Item[], type: number) =>
  items.find((item) => Number(item.ResourceType) === type);

/** The text of an element, whether or not it has attributes. */
function textOf(node: unknown): string | undefined {
  if (typeof node === 'string') return node.trim();
  if (typeof node === 'object' && node !== null) return textOf((node as Node)['#text']);
  return undefined;
}

function countOf(item: Item | undefined, what: string, faults: Fault[]): number {
  const n = Number(textOf(item?.VirtualQuantity));
  if (!item) faults.push({ path: what, message: `no item of ResourceType ${resourceType.processor}` });
  else if (!Number.isInteger(n) || n < 1)
    faults.push({
      path: what,
      message: `VirtualQuantity "${textOf(item.VirtualQuantity) ?? ''}" is no count`,
    });
  return n;
}

function memoryOf(item: Item | undefined, faults: Fault[]): number {
  if (!item) {
    faults.push({ path: 'memory', message: `no item of ResourceType ${resourceType.memory}` });
    return 0;
  }
  // Without a unit the quantity is in megabytes of 2^20 bytes (DSP0004, MemoryAllocation).
  const units = textOf(item.AllocationUnits) ?? 'byte * 2^20';
  return sizeOf(textOf(item.VirtualQuantity), units, 'memory', faults);
}

function sizeOf(quantity: string | undefined, units: string, path: string, faults: Fault[]): number {
  const unit = bytesOf(units);
  const n = Number(quantity);
  if (unit === undefined)
    faults.push({ path, message: `"${units}" is not a unit of bytes such as byte * 2^30` });
  else if (quantity === undefined || quantity === '' || !Number.isFinite(n) || n <= 0)
    faults.push({ path, message: `"${quantity ?? ''}" is not a size` });
  return n * (unit ?? 0);
}

function disksOf(envelope: Node, items: readonly Item[], faults: Fault[], remarks: string[]): Disk[] {
  const section = envelope['DiskSection'] as Node | undefined;
  const known = new Map(((section?.['Disk'] ?? []) as Node[]).map((disk) => [disk['@_diskId'], disk]));
  const drives = items.filter((item) => Number(item.ResourceType) === resourceType.diskDrive);
  if (drives.length === 0) faults.push({ path: 'disks', message: 'no disk drive; a machine needs one' });
  return drives.map((drive, i) => {
    const path = `disks.${i}`;
    const id = /\/disk\/(.+)$/.exec(textOf(drive.HostResource) ?? '')?.[1];
    const disk = known.get(id);
    if (!disk)
      faults.push({ path, message: `refers to the disk "${id ?? ''}", which the DiskSection lacks` });
    const units = String(disk?.['@_capacityAllocationUnits'] ?? 'byte');
    const sizeBytes = disk ? sizeOf(String(disk['@_capacity'] ?? ''), units, path, faults) : 0;
    return {
      sizeBytes,
      controller: controllerOf(drive, items, i, remarks),
      thin: disk?.['@_allocation'] !== 'thick',
    };
  });
}

function controllerOf(drive: Item, items: readonly Item[], i: number, remarks: string[]): Disk['controller'] {
  const parent = items.find((item) => textOf(item.InstanceID) === textOf(drive.Parent));
  const subtype = (textOf(parent?.ResourceSubType) ?? '').toLowerCase();
  if (/para-?virtual|virtio/.test(subtype)) return 'para-virtual';
  switch (Number(parent?.ResourceType)) {
    case resourceType.ideController:
      return 'ide';
    case resourceType.scsiController:
      return 'scsi';
    case resourceType.otherStorage:
      if (/nvme/.test(subtype)) return 'nvme';
      if (/sata|ahci/.test(subtype)) return 'sata';
  }
  remarks.push(`disk ${i + 1} is on a controller "${subtype}" that is not known here; it is read as SATA`);
  return 'sata';
}

function networkOf(items: readonly Item[], remarks: string[]): Hardware['network'] {
  const subtype = textOf(first(items, resourceType.ethernetAdapter)?.ResourceSubType)?.toLowerCase();
  const kind = networkKinds.find((known) => known === subtype);
  if (kind) return kind;
  if (subtype && /virtio/.test(subtype)) return 'para-virtual';
  remarks.push(
    subtype === undefined
      ? 'no network adapter is named; a para-virtual one is taken'
      : `the network adapter "${subtype}" is read as an emulated one`,
  );
  return subtype === undefined ? 'para-virtual' : 'emulated';
}

function graphicsOf(items: readonly Item[], remarks: string[]): Hardware['graphics'] {
  const item = first(items, resourceType.graphics);
  const subtype = textOf(item?.ResourceSubType);
  const kind = graphicsKinds.find((known) => known === subtype);
  if (item && subtype && !kind) remarks.push(`the graphics "${subtype}" are read as a display only`);
  return kind ?? 'display only';
}

function firmwareOf(section: Node, remarks: string[]): Hardware['firmware'] {
  const named = textOf(section['Firmware']);
  const kind = firmwareKinds.find((known) => known === named);
  if (!kind) remarks.push('the descriptor names no firmware; UEFI is taken');
  return kind ?? 'uefi';
}
