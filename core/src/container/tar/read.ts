/** Reads a tar as a stream (ustar, pax, and long names of the GNU kind), and trusts nothing that it says. */
import { ContainerFault, isZero } from '../bytes.ts';
import { joined } from '../pieces.ts';
import type { ExtendedAttribute, Owner } from '../tree.ts';
import { utf8Text } from '../utf8.ts';
import { TAR_BLOCK, tarPadding, typeFlags } from './format.ts';
import { attributesOf, readPax, type PaxFacts } from './pax.ts';
import { readHeader, type RawHeader } from './read-header.ts';

export interface TarMember {
  /** As it stands in the tar; nobody has judged it. */
  readonly path: string;
  /** `other` is named by `kindName`: devices, pipes, what only some tools know. */
  readonly kind: 'file' | 'folder' | 'link' | 'same' | 'other';
  readonly kindName: string;
  /** Bytes of content; 0 of all but files. */
  readonly size: number;
  readonly mode: number;
  /** Whole seconds since 1970, rounded down, and nanoseconds after them. */
  readonly modified: number;
  readonly nanos: number;
  readonly owner: Owner;
  readonly attributes: readonly ExtendedAttribute[];
  /** Of links, and of the same file under another name; empty otherwise. */
  readonly target: string;
  /** A sparse file of the GNU kind: what is stored is not its content. */
  readonly isSparse: boolean;
}

export interface TarPart {
  readonly member: TarMember;
  /** The content, once; what is not read of it is passed over. */
  readonly content: AsyncIterable<Uint8Array>;
}

/** Headers that tell of the next entry; names and attributes do not need more. */
const MOST_EXTENDED_BYTES = 2 ** 20;

const kindNames: Readonly<Record<string, string>> = {
  '3': 'character-device',
  '4': 'block-device',
  '6': 'fifo',
  S: 'sparse file of the GNU kind',
};

/**
 * The entries, each with its content before the next. Ends at two blocks of zeros, whatever stands
 * behind them. Throws `ContainerFault` where the tar is broken or cut short.
 */
export async function* readTar(source: AsyncIterable<Uint8Array>): AsyncGenerator<TarPart> {
  const bytes = new Stretches(source);
  try {
    let ofAll: PaxFacts = {};
    let ofNext: PaxFacts = {};
    for (let block = await bytes.headerBlock(); block; block = await bytes.headerBlock()) {
      const header = readHeader(block);
      const isForAll = header.flag === typeFlags.extendedForAll;
      if (isForAll || isAboutNext(header.flag)) {
        const said = aboutNext(header.flag, await extendedBody(bytes, header));
        if (isForAll) ofAll = { ...ofAll, ...withoutAttributes(said) };
        else ofNext = { ...ofNext, ...said };
        continue;
      }
      const member = memberOf(header, { ...ofAll, ...ofNext });
      ofNext = {};
      const content = new Content(bytes, member.size);
      yield { member, content };
      await content.skipRest();
      await bytes.skip(tarPadding(member.size));
    }
  } finally {
    await bytes.close();
  }
}

/** Attributes are an entry's own; taken for all, a few bytes would cost each entry a million. */
function withoutAttributes({ attributes: _ofNobody, ...rest }: PaxFacts): PaxFacts {
  return rest;
}

function isAboutNext(flag: string): boolean {
  return flag === typeFlags.extended || flag === typeFlags.gnuLongPath || flag === typeFlags.gnuLongTarget;
}

async function extendedBody(bytes: Stretches, { size }: RawHeader): Promise<Uint8Array> {
  if (size > MOST_EXTENDED_BYTES)
    throw new ContainerFault(
      `has an extended header of ${size} bytes; none needs more than ${MOST_EXTENDED_BYTES}`,
    );
  const body = await bytes.take(size);
  await bytes.skip(tarPadding(size));
  return body;
}

function aboutNext(flag: string, body: Uint8Array): PaxFacts {
  if (flag === typeFlags.gnuLongPath) return { path: longText(body, 'a name') };
  if (flag === typeFlags.gnuLongTarget) return { target: longText(body, 'a target of a link') };
  return readPax(body);
}

function longText(body: Uint8Array, what: string): string {
  const end = body.indexOf(0);
  return utf8Text(end < 0 ? body : body.subarray(0, end), what);
}

function memberOf(header: RawHeader, facts: PaxFacts): TarMember {
  const path = facts.path ?? header.path();
  const kind = kindOf(header.flag, path);
  return {
    path,
    kind,
    kindName: kindNames[header.flag] ?? 'special entry',
    // Links and folders may name a size, and have no content all the same.
    size: kind === 'file' || !/[1-6]/.test(header.flag) ? (facts.size ?? header.size) : 0,
    mode: header.mode & 0o7777,
    modified: facts.date?.modified ?? header.modified,
    nanos: facts.date?.nanos ?? 0,
    owner: { user: facts.user ?? header.user, group: facts.group ?? header.group },
    attributes: attributesOf(facts),
    target: facts.target ?? header.target(),
    isSparse: facts.isSparse === true || header.flag === 'S',
  };
}

function kindOf(flag: string, path: string): TarMember['kind'] {
  switch (flag) {
    case '\0':
    case typeFlags.file:
      // Before there was a flag for folders, a slash at the end said it.
      return path.endsWith('/') ? 'folder' : 'file';
    case '7':
      return 'file';
    case typeFlags.same:
      return 'same';
    case typeFlags.link:
      return 'link';
    case typeFlags.folder:
      return 'folder';
    default:
      return 'other';
  }
}

class Content implements AsyncIterable<Uint8Array> {
  private left: number;

  constructor(
    private readonly bytes: Stretches,
    size: number,
  ) {
    this.left = size;
  }

  async *[Symbol.asyncIterator](): AsyncGenerator<Uint8Array> {
    while (this.left > 0) {
      const piece = await this.bytes.some(this.left);
      this.left -= piece.length;
      yield piece;
    }
  }

  async skipRest(): Promise<void> {
    await this.bytes.skip(this.left);
    this.left = 0;
  }
}

/** A stream of bytes that is taken in stretches of any length. */
class Stretches {
  private readonly pieces: AsyncIterator<Uint8Array>;
  private held = new Uint8Array();

  constructor(source: AsyncIterable<Uint8Array>) {
    this.pieces = source[Symbol.asyncIterator]();
  }

  /** The next header; nothing at the end: no more bytes, or two blocks of zeros. */
  async headerBlock(): Promise<Uint8Array | undefined> {
    if (!(await this.hasMore())) return undefined;
    const block = await this.take(TAR_BLOCK);
    if (!isZero(block)) return block;
    if ((await this.hasMore()) && !isZero(await this.take(TAR_BLOCK)))
      throw new ContainerFault('has a block of zeros in its midst, which is no entry and no end');
    return undefined;
  }

  async take(length: number): Promise<Uint8Array> {
    const parts: Uint8Array[] = [];
    for (let left = length; left > 0;) {
      const part = await this.some(left);
      parts.push(part);
      left -= part.length;
    }
    return joined(parts);
  }

  async skip(length: number): Promise<void> {
    for (let left = length; left > 0;) left -= (await this.some(left)).length;
  }

  /** As much as is there, at most so much, at least a byte. */
  async some(most: number): Promise<Uint8Array> {
    if (!(await this.hasMore())) throw new ContainerFault('is truncated: it ends in the middle of an entry');
    const part = this.held.subarray(0, most);
    this.held = this.held.subarray(part.length);
    return part;
  }

  async close(): Promise<void> {
    await this.pieces.return?.();
  }

  private async hasMore(): Promise<boolean> {
    while (this.held.length === 0) {
      const next = await this.pieces.next();
      if (next.done) return false;
      this.held = next.value as Uint8Array<ArrayBuffer>;
    }
    return true;
  }
}
