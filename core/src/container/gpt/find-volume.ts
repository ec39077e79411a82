/** Where on a disk the volume lies: in a GPT or MBR partition, or without any from the first sector. */
import { ContainerFault, type ByteSource } from '../bytes.ts';
import { crc32 } from '../crc.ts';
import { guidText } from '../guid.ts';
import { StructReader, StructWriter } from '../struct.ts';

export interface VolumePlace {
  readonly offset: number;
  readonly length: number;
  /** Name of the partition; empty where it has none. */
  readonly name: string;
  readonly scheme: 'GPT' | 'MBR' | 'none';
}

const SECTOR = 512;
/** Partitions that hold no files of the package: of the firmware, or reserved. */
const passedOver = new Set([
  '00000000-0000-0000-0000-000000000000',
  'C12A7328-F81F-11D2-BA4B-00A0C93EC93B',
  'E3C9E316-0B5C-4DB8-817D-F92DF00215AE',
]);
const fatTypes = new Set([0x01, 0x04, 0x06, 0x0b, 0x0c, 0x0e]);

/** Throws `ContainerFault`: no volume, several, or a table that is broken. */
export async function findVolume(disk: ByteSource): Promise<VolumePlace> {
  if (disk.size < SECTOR) throw new ContainerFault('has a disk without a sector');
  const first = await disk.read(0, SECTOR);
  if (first[510] !== 0x55 || first[511] !== 0xaa)
    throw new ContainerFault('has neither a partition table nor a volume on its disk');
  const rows = mbrRows(first);
  if (rows.some((row) => row.type === 0xee)) return findInGpt(disk);
  // A volume without a table begins with a jump and says how large its sectors are.
  const isVolume = (first[0] === 0xeb || first[0] === 0xe9) && first[11] === 0 && first[12] === 2;
  if (isVolume) return { offset: 0, length: disk.size, name: '', scheme: 'none' };
  const fat = rows.filter((row) => fatTypes.has(row.type));
  return onlyOne(
    fat.map((row) => ({
      offset: row.start * SECTOR,
      length: row.sectors * SECTOR,
      name: '',
      scheme: 'MBR' as const,
    })),
    disk.size,
  );
}

function mbrRows(sector: Uint8Array): { type: number; start: number; sectors: number }[] {
  return [0, 1, 2, 3].map((i) => {
    const read = new StructReader(sector, 'the partition table', 446 + i * 16 + 4);
    const type = read.u8();
    read.raw(3);
    return { type, start: read.u32(), sectors: read.u32() };
  });
}

async function findInGpt(disk: ByteSource): Promise<VolumePlace> {
  const raw = await disk.read(SECTOR, SECTOR);
  const read = new StructReader(raw, 'the partition table');
  if (read.text(8) !== 'EFI PART') throw new ContainerFault('has a GUID partition table without a header');
  read.u32();
  const length = read.u32();
  const sum = read.u32();
  if (length < 92 || length > SECTOR) throw new ContainerFault(`has a partition header of ${length} bytes`);
  const plain = new StructWriter(SECTOR).raw(raw).seek(16).u32(0).bytes.subarray(0, length);
  if (crc32(plain) !== sum) throw new ContainerFault('has a partition header whose checksum is wrong');
  const entriesAt = read.seek(72).u64() * SECTOR;
  const [count, entryBytes, entriesSum] = [read.u32(), read.u32(), read.u32()];
  if (count > 1024 || entryBytes < 128 || entryBytes > 4096)
    throw new ContainerFault(`has a partition table of ${count} entries of ${entryBytes} bytes`);
  const entries = await disk.read(entriesAt, count * entryBytes);
  if (crc32(entries) !== entriesSum)
    throw new ContainerFault('has a partition table whose checksum is wrong');
  const places = Array.from({ length: count }, (_none, i) => i * entryBytes).flatMap((at) =>
    gptRow(new StructReader(entries, 'the partition table', at)),
  );
  return onlyOne(places, disk.size);
}

function gptRow(read: StructReader): VolumePlace[] {
  const type = guidText(read.raw(16));
  if (passedOver.has(type)) return [];
  read.raw(16);
  const [first, last] = [read.u64(), read.u64()];
  read.u64();
  const units = Array.from({ length: 36 }, () => read.u16());
  const name = String.fromCharCode(...units).replace(/\0.*$/s, '');
  return [{ offset: first * SECTOR, length: (last - first + 1) * SECTOR, name, scheme: 'GPT' }];
}

function onlyOne(places: readonly VolumePlace[], diskBytes: number): VolumePlace {
  const [place, other] = places;
  if (!place) throw new ContainerFault('has no partition with a FAT32 volume');
  if (other) throw new ContainerFault(`has ${places.length} partitions; a container has one`);
  if (place.length <= 0 || place.offset + place.length > diskBytes)
    throw new ContainerFault('has a partition that reaches beyond its disk');
  return place;
}
