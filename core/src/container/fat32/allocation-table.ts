/** The allocation table of a FAT32 volume, read a page at a time: a whole one can have 1 GiB. */
import type { ByteSource } from '../bytes.ts';

const PAGE_ENTRIES = 64 * 1024;
const KEPT_PAGES = 16;

export class AllocationTable {
  private readonly pages = new Map<number, DataView>();

  constructor(
    private readonly volume: ByteSource,
    private readonly offset: number,
  ) {}

  /** What follows a cluster, where its page is at hand. */
  known(cluster: number): number | undefined {
    const page = this.pages.get(Math.floor(cluster / PAGE_ENTRIES));
    return page && entryOf(page, cluster);
  }

  /** What follows a cluster of the volume. */
  async next(cluster: number): Promise<number> {
    const number = Math.floor(cluster / PAGE_ENTRIES);
    const from = this.offset + number * PAGE_ENTRIES * 4;
    const raw = await this.volume.read(from, Math.min(PAGE_ENTRIES * 4, this.volume.size - from));
    const page = new DataView(raw.buffer, raw.byteOffset, raw.byteLength);
    if (this.pages.size >= KEPT_PAGES) this.pages.delete(this.pages.keys().next().value ?? number);
    this.pages.set(number, page);
    return entryOf(page, cluster);
  }
}

function entryOf(page: DataView, cluster: number): number {
  return page.getUint32((cluster % PAGE_ENTRIES) * 4, true) & 0x0fffffff;
}
