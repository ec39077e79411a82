/** Hardware as an OVF 1.1 descriptor (DMTF DSP0243), without any disk files. */
import { XMLBuilder } from 'fast-xml-parser';
import { diskControllers, type Hardware } from '../hardware.ts';
import { controllerResource, legacyResource, ovfNamespaces, resourceType } from './resource-types.ts';

type Xml = Record<string, unknown>;

/** The descriptor as XML text. `name` becomes the identifier of the virtual system. */
export function writeOvf(name: string, hardware: Hardware): string {
  const builder = new XMLBuilder({ ignoreAttributes: false, format: true, suppressEmptyNode: true });
  return builder.build({
    '?xml': { '@_version': '1.0', '@_encoding': 'UTF-8' },
    'ovf:Envelope': {
      ...Object.fromEntries(Object.entries(ovfNamespaces).map(([prefix, uri]) => [`@_xmlns:${prefix}`, uri])),
      'ovf:References': '',
      'ovf:DiskSection': {
        'ovf:Info': 'Disks of the build machine',
        'ovf:Disk': hardware.disks.map((disk, i) => ({
          '@_ovf:diskId': `disk-${i + 1}`,
          '@_ovf:capacity': disk.sizeBytes,
          '@_ovf:capacityAllocationUnits': 'byte',
          '@_vl:allocation': disk.thin ? 'thin' : 'thick',
        })),
      },
      'ovf:NetworkSection': {
        'ovf:Info': 'The network that build machines are on',
        'ovf:Network': { '@_ovf:name': 'build', 'ovf:Description': 'Build machines' },
      },
      'ovf:VirtualSystem': {
        '@_ovf:id': name,
        'ovf:Info': 'A build machine',
        'ovf:Name': name,
        'ovf:VirtualHardwareSection': {
          'ovf:Info': 'Hardware of the build machine',
          'ovf:System': {
            'vssd:ElementName': 'Virtual hardware',
            'vssd:InstanceID': 0,
            'vssd:VirtualSystemIdentifier': name,
          },
          'ovf:Item': items(hardware),
          'vl:Firmware': { '@_ovf:required': 'false', '#text': hardware.firmware },
        },
      },
    },
  });
}

/** The items in the order of devices; fields of an item in the order of the schema, which is that of the alphabet. */
function items(hardware: Hardware): Xml[] {
  const list: Xml[] = [];
  const add = (fields: Xml): number => {
    const id = list.length + 1;
    const all = { ...fields, InstanceID: id };
    const sorted = Object.entries(all).sort(([a], [b]) => (a < b ? -1 : 1));
    list.push(Object.fromEntries(sorted.map(([field, value]) => [`rasd:${field}`, value])));
    return id;
  };
  add({
    ElementName: `${hardware.processors} processors`,
    ResourceType: resourceType.processor,
    VirtualQuantity: hardware.processors,
  });
  add({
    AllocationUnits: 'byte',
    ElementName: 'Memory',
    ResourceType: resourceType.memory,
    VirtualQuantity: hardware.memoryBytes,
  });
  addDisks(hardware, add);
  add({
    AutomaticAllocation: true,
    Connection: 'build',
    ElementName: 'Network adapter',
    ResourceSubType: hardware.network,
    ResourceType: resourceType.ethernetAdapter,
  });
  add({ ElementName: 'Graphics', ResourceSubType: hardware.graphics, ResourceType: resourceType.graphics });
  for (const device of hardware.legacy)
    add({ AutomaticAllocation: false, ElementName: device, ResourceType: legacyResource[device] });
  return list;
}

/** One controller for each kind that is used, and the disks on them. */
function addDisks({ disks }: Hardware, add: (fields: Xml) => number): void {
  const used = diskControllers.filter((kind) => disks.some((disk) => disk.controller === kind));
  const parents = new Map(
    used.map((kind, address) => [
      kind,
      add({
        Address: address,
        ElementName: `${kind} controller`,
        ResourceSubType: kind,
        ResourceType: controllerResource[kind],
      }),
    ]),
  );
  disks.forEach((disk, i) => {
    const before = disks.slice(0, i).filter((other) => other.controller === disk.controller).length;
    add({
      AddressOnParent: before,
      ElementName: `Disk ${i + 1}`,
      HostResource: `ovf:/disk/disk-${i + 1}`,
      Parent: parents.get(disk.controller),
      ResourceType: resourceType.diskDrive,
    });
  });
}
