import { XMLParser } from 'fast-xml-parser';
import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import {
  diskControllers,
  firmwareKinds,
  graphicsKinds,
  leanHardware,
  legacyDevices,
  networkKinds,
  type Hardware,
} from '../src/image/hardware.ts';
import { bytesOf } from '../src/image/ovf/allocation-units.ts';
import { readOvf } from '../src/image/ovf/read-ovf.ts';
import { writeOvf } from '../src/image/ovf/write-ovf.ts';

const anyHardware: fc.Arbitrary<Hardware> = fc.record({
  processors: fc.integer({ min: 1, max: 64 }),
  memoryBytes: fc.integer({ min: 1e9, max: 1e12 }),
  disks: fc.array(
    fc.record({
      sizeBytes: fc.integer({ min: 1e9, max: 4e12 }),
      controller: fc.constantFrom(...diskControllers),
      thin: fc.boolean(),
    }),
    { minLength: 1, maxLength: 8 },
  ),
  network: fc.constantFrom(...networkKinds),
  firmware: fc.constantFrom(...firmwareKinds),
  graphics: fc.constantFrom(...graphicsKinds),
  legacy: fc.subarray([...legacyDevices]),
});

describe('an OVF descriptor of our own', () => {
  it('reads back equal, whatever the hardware', () => {
    fc.assert(
      fc.property(anyHardware, fc.string({ minLength: 1 }), (hardware, name) => {
        const printable = `BUILD ${name.replace(/[^\x21-\x7e]/g, '')}`.trim();
        const read = readOvf(writeOvf(printable, hardware));
        expect(read).toEqual({ ok: true, value: { name: printable, hardware, remarks: [] } });
      }),
    );
  });

  // The schema of the standard, element by element: order of sections, required children, order in an item.
  const parsed = new XMLParser({ ignoreAttributes: false, preserveOrder: true }).parse(
    writeOvf('BUILD-STAFF', {
      ...leanHardware,
      disks: [...leanHardware.disks, { sizeBytes: 5e9, controller: 'nvme', thin: false }],
      legacy: ['floppy drive'],
    }),
  ) as Record<string, unknown>[];
  type Ordered = Record<string, unknown>;
  const inside = (nodes: Ordered[], name: string) => nodes.find((node) => name in node)?.[name] as Ordered[];
  const namesOf = (nodes: Ordered[]) => nodes.map((node) => Object.keys(node).find((key) => key !== ':@'));
  const envelope = inside(parsed, 'ovf:Envelope');

  it('has the sections of the envelope in their order', () => {
    expect(namesOf(envelope)).toEqual([
      'ovf:References',
      'ovf:DiskSection',
      'ovf:NetworkSection',
      'ovf:VirtualSystem',
    ]);
  });

  it('gives every section an Info first, and every item what the schema requires in the order of the alphabet', () => {
    const system = inside(envelope, 'ovf:VirtualSystem');
    const hardware = inside(system, 'ovf:VirtualHardwareSection');
    for (const section of [inside(envelope, 'ovf:DiskSection'), system, hardware])
      expect(namesOf(section)[0]).toBe('ovf:Info');
    const items = hardware.filter((node) => 'ovf:Item' in node).map((node) => node['ovf:Item'] as Ordered[]);
    // 1 processors, 1 memory, 2 controllers, 2 disks, network, graphics, floppy
    expect(items).toHaveLength(9);
    for (const item of items) {
      const names = namesOf(item) as string[];
      expect(names).toEqual([...names].sort());
      expect(names).toEqual(
        expect.arrayContaining(['rasd:ElementName', 'rasd:InstanceID', 'rasd:ResourceType']),
      );
    }
    const ids = items.map((item) => JSON.stringify(inside(item, 'rasd:InstanceID')));
    expect(new Set(ids).size).toBe(ids.length);
  });
});

const foreign = (
  items: string,
  disks = '<Disk ovf:diskId="d1" ovf:capacity="64" ovf:capacityAllocationUnits="byte * 2^30"/>',
) => `<?xml version="1.0"?>
<Envelope xmlns="http://schemas.dmtf.org/ovf/envelope/1" xmlns:ovf="http://schemas.dmtf.org/ovf/envelope/1"
  xmlns:rasd="http://schemas.dmtf.org/wbem/wscim/1/cim-schema/2/CIM_ResourceAllocationSettingData">
  <References/><DiskSection><Info>disks</Info>${disks}</DiskSection>
  <VirtualSystem ovf:id="vm-7"><Info>one</Info><VirtualHardwareSection><Info>hw</Info>${items}</VirtualHardwareSection></VirtualSystem>
</Envelope>`;
const item = (type: number, rest = '') =>
  `<Item><rasd:InstanceID>${type}</rasd:InstanceID><rasd:ResourceType>${type}</rasd:ResourceType>${rest}</Item>`;
const quantity = (n: string, units = '') =>
  `${units && `<rasd:AllocationUnits>${units}</rasd:AllocationUnits>`}<rasd:VirtualQuantity>${n}</rasd:VirtualQuantity>`;
const cpu = item(3, quantity('4'));
const memory = item(4, quantity('8192', 'byte * 2^20'));
const drive = item(17, '<rasd:HostResource>ovf:/disk/d1</rasd:HostResource><rasd:Parent>20</rasd:Parent>');

describe('a descriptor made elsewhere', () => {
  it('is read with what it leaves out named', () => {
    const sata = item(20, '<rasd:ResourceSubType>AHCI</rasd:ResourceSubType>');
    expect(readOvf(foreign(cpu + memory + sata + drive + item(14) + item(15)))).toEqual({
      ok: true,
      value: {
        name: 'vm-7',
        hardware: {
          processors: 4,
          memoryBytes: 8 * 2 ** 30,
          disks: [{ sizeBytes: 64 * 2 ** 30, controller: 'sata', thin: true }],
          network: 'para-virtual',
          firmware: 'uefi',
          graphics: 'display only',
          legacy: ['floppy drive', 'optical drive'],
        },
        remarks: [
          'no network adapter is named; a para-virtual one is taken',
          'the descriptor names no firmware; UEFI is taken',
        ],
      },
    });
  });

  const entity = foreign(cpu + memory + drive).replace(
    '<?xml version="1.0"?>',
    '<!DOCTYPE a [<!ENTITY b "bbbb"><!ENTITY c "&b;&b;&b;&b;">]>',
  );
  it.each([
    ['no XML', '<Envelope>', 'file', 'is not XML, line 1'],
    ['another document', '<a/>', 'Envelope', 'this is not an OVF descriptor'],
    ['another version', foreign(cpu).replaceAll('envelope/1', 'envelope/2'), 'Envelope', 'is not of OVF 1.1'],
    ['entities that expand', entity, 'file', 'declares a document type'],
    ['over a megabyte', foreign(cpu + ' '.repeat(1_000_000)), 'file', 'at most 1,000,000'],
    ['no processors', foreign(memory + drive), 'processors', 'no item of ResourceType 3'],
    ['no memory', foreign(cpu + drive), 'memory', 'no item of ResourceType 4'],
    ['no disk', foreign(cpu + memory), 'disks', 'no disk drive'],
    ['a disk that is not there', foreign(cpu + memory + drive, ''), 'disks.0', 'refers to the disk "d1"'],
    [
      'half a processor',
      foreign(item(3, quantity('0.5')) + memory + drive),
      'processors',
      '"0.5" is no count',
    ],
    [
      'an odd unit',
      foreign(cpu + item(4, quantity('8', 'pages')) + drive),
      'memory',
      '"pages" is not a unit',
    ],
    ['no size', foreign(cpu + item(4, quantity('many')) + drive), 'memory', '"many" is not a size'],
    [
      'several machines',
      foreign(cpu).replace(/(<VirtualSystem[\s\S]*<\/VirtualSystem>)/, '$1$1'),
      'VirtualSystem',
      'stands 2 times',
    ],
    [
      'a collection',
      foreign(cpu).replaceAll('VirtualSystem', 'VirtualSystemCollection'),
      'VirtualSystemCollection',
      'several machines',
    ],
    [
      'no hardware',
      foreign('').replaceAll('VirtualHardwareSection', 'OtherSection'),
      'VirtualHardwareSection',
      'is missing',
    ],
  ])('with %s is refused, and the fault says where', (_what, text, path, message) => {
    const read = readOvf(text);
    expect(read.ok).toBe(false);
    if (read.ok) return;
    expect(read.error[0]?.path).toBe(path);
    expect(read.error[0]?.message).toContain(message);
  });

  it('nested ten thousand deep is answered and not crashed on', () => {
    const deep = foreign('<x>'.repeat(10_000) + '</x>'.repeat(10_000));
    expect(readOvf(deep).ok).toBe(false);
  });
});

describe('units of bytes', () => {
  it.each([
    ['byte', 1],
    ['byte * 2^30', 2 ** 30],
    ['byte*10^6', 1e6],
    ['byte * 1024', 1024],
    ['MegaBytes', 2 ** 20],
    ['GIGABYTE', 2 ** 30],
    ['', undefined],
    ['bit * 8', undefined],
    ['byte * 2^9999', undefined],
  ])('%s', (text, bytes) => expect(bytesOf(text)).toBe(bytes));
});
