/** Opens the tree in a VHDX container: disk, partition, volume. */
import type { ByteSource } from '../bytes.ts';
import { Fat32Volume } from '../fat32/read.ts';
import { findVolume, type VolumePlace } from '../gpt/find-volume.ts';
import { limitsFor, type ReadLimits } from '../limits.ts';
import { VhdxDisk } from './disk-reader.ts';

export interface VhdxContainer {
  readonly disk: VhdxDisk;
  readonly place: VolumePlace;
  readonly volume: Fat32Volume;
}

/** Throws `ContainerFault` for the first thing that cannot be. */
export async function openVhdx(
  file: ByteSource,
  limits: ReadLimits = limitsFor(file.size),
): Promise<VhdxContainer> {
  const disk = await VhdxDisk.open(file);
  const place = await findVolume(disk);
  const volume = await Fat32Volume.open(
    {
      size: place.length,
      read: (offset, length) => disk.read(place.offset + offset, Math.min(length, place.length - offset)),
    },
    limits,
  );
  return { disk, place, volume };
}
