/** The records of the inode and directory tables. */
import { joined } from '../pieces.ts';
import { StructWriter } from '../struct.ts';
import type { FilePlace } from './data-writer.ts';
import { inodeType, METADATA_BYTES, MOST_UNDER_HEADER, NONE_32 } from './format.ts';
import type { MetadataPlace } from './metadata-writer.ts';

export interface InodeHead {
  /** Permission bits. */
  readonly mode: number;
  /** Seconds since 1970. */
  readonly modified: number;
  readonly number: number;
  /** Places in the table of owners. */
  readonly user: number;
  readonly group: number;
  /** Place in the table of attributes, or `NONE_32`. */
  readonly attributes: number;
}

const HEAD_BYTES = 16;
const encoder = new TextEncoder();

function begin(size: number, type: number, head: InodeHead): StructWriter {
  return new StructWriter(size)
    .u16(type)
    .u16(head.mode & 0o7777)
    .u16(head.user)
    .u16(head.group)
    .u32(Math.min(Math.max(0, head.modified), NONE_32))
    .u32(head.number);
}

/** `names`: how many the file has. */
export function fileInode(head: InodeHead, size: number, place: FilePlace, names: number): Uint8Array {
  const isLarge =
    size > NONE_32 || place.start > NONE_32 || place.sparse > 0 || names > 1 || head.attributes !== NONE_32;
  const list = place.blocks.length * 4;
  const record = isLarge
    ? begin(HEAD_BYTES + 40 + list, inodeType.extendedFile, head)
        .u64(place.start)
        .u64(size)
        .u64(place.sparse)
        .u32(names)
        .u32(place.fragment)
        .u32(place.fragmentOffset)
        .u32(head.attributes)
    : begin(HEAD_BYTES + 16 + list, inodeType.file, head)
        .u32(place.start)
        .u32(place.fragment)
        .u32(place.fragmentOffset)
        .u32(size);
  for (const block of place.blocks) record.u32(block);
  return record.bytes;
}

export function linkInode(head: InodeHead, target: string): Uint8Array {
  const bytes = encoder.encode(target);
  const isLarge = head.attributes !== NONE_32;
  const record = begin(
    HEAD_BYTES + 8 + bytes.length + (isLarge ? 4 : 0),
    isLarge ? inodeType.extendedLink : inodeType.link,
    head,
  )
    .u32(1)
    .u32(bytes.length)
    .raw(bytes);
  return isLarge ? record.u32(head.attributes).bytes : record.bytes;
}

export interface FolderFacts {
  readonly listing: Listing;
  /** Where the listing lies in the directory table. */
  readonly at: MetadataPlace;
  /** Compressed start of each block of the directory table that the listing begins or goes on in. */
  readonly blockStart: (block: number) => number;
  readonly folders: number;
  readonly parent: number;
}

/** A listing has three bytes more than it has, for `.` and `..`; so the format counts. */
const DOTS = 3;

export function folderInode(head: InodeHead, facts: FolderFacts): Uint8Array {
  const { listing, at, folders, parent } = facts;
  const size = listing.bytes.length + DOTS;
  const links = folders + 2;
  if (size <= 0xffff && listing.bytes.length <= METADATA_BYTES && head.attributes === NONE_32)
    return begin(HEAD_BYTES + 16, inodeType.folder, head)
      .u32(at.block)
      .u32(links)
      .u16(size)
      .u16(at.offset)
      .u32(parent).bytes;
  const index = indexOf(facts);
  const names = index.reduce((sum, row) => sum + 12 + row.name.length, 0);
  const record = begin(HEAD_BYTES + 24 + names, inodeType.extendedFolder, head)
    .u32(links)
    .u32(size)
    .u32(at.block)
    .u32(parent)
    .u16(index.length)
    .u16(at.offset)
    .u32(head.attributes);
  for (const row of index)
    record
      .u32(row.at)
      .u32(row.block)
      .u32(row.name.length - 1)
      .raw(row.name);
  return record.bytes;
}

/** The first header of a listing in every block after the one it begins in, for quick look-up. */
function indexOf({
  listing,
  at,
  blockStart,
}: FolderFacts): { at: number; block: number; name: Uint8Array }[] {
  let last = 0;
  return listing.headers.flatMap((header) => {
    const block = Math.floor((at.offset + header.at) / METADATA_BYTES);
    if (block === last) return [];
    last = block;
    return [{ at: header.at, block: blockStart(block), name: header.name }];
  });
}

export interface ListedChild {
  readonly name: Uint8Array;
  readonly type: number;
  readonly number: number;
  readonly inode: MetadataPlace;
}

export interface Listing {
  readonly bytes: Uint8Array;
  /** Where each header stands, and the first name under it. */
  readonly headers: readonly { readonly at: number; readonly name: Uint8Array }[];
}

/**
 * The listing of a folder: children in byte order of their names, in runs under a header. A run
 * ends where the children's inodes lie in another block, numbers get too far apart, or a block of
 * the table is full, which is what lets a reader begin in the middle.
 */
export function listing(children: readonly ListedChild[]): Listing {
  const parts: Uint8Array[] = [];
  const headers: { at: number; name: Uint8Array }[] = [];
  let size = 0;
  for (let i = 0; i < children.length;) {
    const run = runFrom(children, i);
    const [first] = run;
    if (!first) break;
    headers.push({ at: size, name: first.name });
    const record = new StructWriter(12 + run.reduce((sum, child) => sum + 8 + child.name.length, 0))
      .u32(run.length - 1)
      .u32(first.inode.block)
      .u32(first.number);
    for (const child of run)
      record
        .u16(child.inode.offset)
        .u16((child.number - first.number) & 0xffff)
        .u16(child.type)
        .u16(child.name.length - 1)
        .raw(child.name);
    parts.push(record.bytes);
    size += record.bytes.length;
    i += run.length;
  }
  return { bytes: joined(parts), headers };
}

function runFrom(children: readonly ListedChild[], from: number): ListedChild[] {
  const run: ListedChild[] = [];
  let bytes = 12;
  for (let i = from; i < children.length && run.length < MOST_UNDER_HEADER; i++) {
    const child = children[i] as ListedChild;
    const first = run[0] ?? child;
    bytes += 8 + child.name.length;
    if (
      child.inode.block !== first.inode.block ||
      Math.abs(child.number - first.number) > 32_000 ||
      (run.length > 0 && bytes > METADATA_BYTES)
    )
      break;
    run.push(child);
  }
  return run;
}
