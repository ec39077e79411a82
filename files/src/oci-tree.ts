/** The tree in an OCI image layout: its layers laid over each other, files read where the last one is. */
import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import tar from 'tar-stream';
import { ContainerFault } from '@vatline/core/container/bytes';
import { EntryList, limitsFor, type ReadLimits } from '@vatline/core/container/limits';
import { inPieces } from '@vatline/core/container/pieces';
import { safePath } from '@vatline/core/container/safe-path';
import type { Tree, TreeEntry } from '@vatline/core/container/tree';
import { compareBytes } from '@vatline/core/image/inventory';
import { InputError } from './input-error.ts';
import { unzippedLayer, type Layout } from './oci-layout.ts';

/** Where a file's content lies: the how manyeth entry of which layer. */
interface Place {
  readonly layer: number;
  readonly number: number;
}

type TarEntry = Readable & { header: tar.Header };

const WHITEOUT = '.wh.';
const OPAQUE = '.wh..wh..opq';

export class OciTree implements Tree {
  readonly entries: readonly TreeEntry[];
  private readonly places: Map<TreeEntry, Place>;

  private constructor(
    private readonly layout: Layout,
    private readonly limits: ReadLimits,
    found: Overlay,
  ) {
    ({ entries: this.entries, places: this.places } = found.result());
  }

  /** Lays the layers over each other. Throws `ContainerFault` or `InputError` for what cannot be read. */
  static async open(layout: Layout, layerBytes: number): Promise<OciTree> {
    const limits = limitsFor(layerBytes);
    const overlay = new Overlay(limits);
    for (const layer of layout.manifest.layers.keys()) {
      overlay.beginLayer(layer);
      for await (const entry of tarEntries(layout, layer, limits)) {
        overlay.add(entry.header);
        entry.resume();
      }
    }
    return new OciTree(layout, limits, overlay);
  }

  /** One file. Reads its layer from the start; to read all files, take `contents`. */
  async *read(entry: TreeEntry, piece: number): AsyncGenerator<Uint8Array> {
    const place = this.places.get(entry);
    if (!place) throw new Error(`${entry.path} is no file of this container`);
    let number = 0;
    for await (const found of tarEntries(this.layout, place.layer, this.limits)) {
      if (number++ === place.number) {
        yield* inPieces(found as AsyncIterable<Uint8Array>, piece);
        return;
      }
      found.resume();
    }
  }

  /** All files in the order they are stored, each read to its end before the next. */
  async *contents(): AsyncGenerator<{ entry: TreeEntry; bytes: AsyncIterable<Uint8Array> }> {
    const wanted = new Map<string, TreeEntry>();
    const again: TreeEntry[] = [];
    for (const [entry, place] of this.places) {
      const key = `${place.layer}:${place.number}`;
      // Hard links share one place; all but one of them are read by themselves.
      if (wanted.has(key)) again.push(entry);
      else wanted.set(key, entry);
    }
    for (const layer of this.layout.manifest.layers.keys()) {
      let number = 0;
      for await (const found of tarEntries(this.layout, layer, this.limits)) {
        const entry = wanted.get(`${layer}:${number++}`);
        if (entry) yield { entry, bytes: found as AsyncIterable<Uint8Array> };
        found.resume();
      }
    }
    for (const entry of again) yield { entry, bytes: this.read(entry, 1 << 18) };
  }
}

async function* tarEntries(layout: Layout, layer: number, limits: ReadLimits): AsyncGenerator<TarEntry> {
  const descriptor = layout.manifest.layers[layer];
  if (!descriptor) return;
  const extract = tar.extract();
  const most = limits.bytes + limits.entries * 1024;
  const feeding = pipeline(Readable.from(unzippedLayer(layout.folder, descriptor, most)), extract);
  feeding.catch(() => undefined); // the loop ends with the same error
  try {
    for await (const entry of extract) yield entry as unknown as TarEntry;
    await feeding;
  } catch (error) {
    if (error instanceof InputError || error instanceof ContainerFault) throw error;
    const why = error instanceof Error ? error.message : String(error);
    throw new ContainerFault(`has a layer ${layer + 1} that cannot be unpacked: ${why}`);
  } finally {
    extract.destroy();
  }
}

interface OverlayNode {
  entry?: TreeEntry;
  /** Of a file. */
  place?: Place;
  readonly children: Map<string, OverlayNode>;
}

/**
 * Layers laid over each other, entry by entry. It is a tree, so that taking a folder away costs
 * the same however much is in it.
 */
class Overlay {
  private readonly root: OverlayNode = { children: new Map() };
  private readonly list: EntryList;
  private layer = 0;
  private number = 0;

  constructor(limits: ReadLimits) {
    this.list = new EntryList(limits);
  }

  beginLayer(layer: number): void {
    this.layer = layer;
    this.number = 0;
  }

  add(header: tar.Header): void {
    const place = { layer: this.layer, number: this.number++ };
    if (/^\.?\/*$/.test(header.name)) return;
    const safe = safePath(header.name);
    if (!safe.ok)
      throw new ContainerFault(
        `has the path ${JSON.stringify(header.name)}, which ${safe.error[0]?.message ?? ''}`,
      );
    const parts = safe.value.split('/');
    const name = parts.pop() ?? '';
    if (name === OPAQUE) this.find(parts)?.children.clear();
    else if (name.startsWith(WHITEOUT)) this.find(parts)?.children.delete(name.slice(WHITEOUT.length));
    else this.put(this.makeFolders(parts), name, safe.value, header, place);
  }

  /** What is left, sorted by path, and where the files among it lie. */
  result(): { entries: TreeEntry[]; places: Map<TreeEntry, Place> } {
    const entries: TreeEntry[] = [];
    const places = new Map<TreeEntry, Place>();
    const open = [this.root];
    for (let node = open.pop(); node; node = open.pop()) {
      if (node.entry) entries.push(node.entry);
      if (node.entry && node.place) places.set(node.entry, node.place);
      for (const child of node.children.values()) open.push(child);
    }
    return { entries: entries.sort((a, b) => compareBytes(a.path, b.path)), places };
  }

  private find(parts: readonly string[]): OverlayNode | undefined {
    let node: OverlayNode | undefined = this.root;
    for (const part of parts) node = node?.children.get(part);
    return node;
  }

  private makeFolders(parts: readonly string[]): OverlayNode {
    let node = this.root;
    for (const [i, part] of parts.entries()) {
      const path = parts.slice(0, i + 1).join('/');
      const known = node.children.get(part);
      if (known && known.entry?.kind !== 'folder')
        throw new ContainerFault(`has an entry below ${path}, which is a ${known.entry?.kind ?? 'file'}`);
      node =
        known ?? this.set(node, part, { path, kind: 'folder', size: 0, mode: 0o755, modified: 0 }, undefined);
    }
    return node;
  }

  private put(folder: OverlayNode, name: string, path: string, header: tar.Header, place: Place): void {
    const { type, mode, mtime, size, linkname } = header;
    const common = {
      path,
      mode: (mode ?? 0o644) & 0o7777,
      modified: Math.floor((mtime?.getTime() ?? 0) / 1000),
    };
    if (type === 'directory') this.set(folder, name, { ...common, kind: 'folder', size: 0 }, undefined);
    else if (type === 'symlink')
      this.set(folder, name, { ...common, kind: 'link', size: 0, target: linkname ?? '' }, undefined);
    else if (type === 'link') this.hardLink(folder, name, common, linkname ?? '');
    else if (type === 'file' || type === 'contiguous-file')
      this.set(folder, name, { ...common, kind: 'file', size: size ?? 0 }, place);
    else
      throw new ContainerFault(
        `holds ${path}, a ${type ?? 'special entry'}; files, folders and links are read`,
      );
  }

  private hardLink(
    folder: OverlayNode,
    name: string,
    common: Pick<TreeEntry, 'path' | 'mode' | 'modified'>,
    target: string,
  ): void {
    const safe = safePath(target);
    const other = safe.ok ? this.find(safe.value.split('/')) : undefined;
    if (!other?.entry || !other.place)
      throw new ContainerFault(`has ${common.path} as a hard link to ${target}, which is no file`);
    this.set(folder, name, { ...common, kind: 'file', size: other.entry.size }, other.place);
  }

  /** A folder over a folder keeps what is in it; anything else takes the place of what was there. */
  private set(folder: OverlayNode, name: string, entry: TreeEntry, place: Place | undefined): OverlayNode {
    this.list.add(entry);
    const before = folder.children.get(name);
    const isKept = entry.kind === 'folder' && before?.entry?.kind === 'folder';
    const node: OverlayNode = {
      entry,
      ...(place ? { place } : {}),
      children: isKept ? before.children : new Map<string, OverlayNode>(),
    };
    folder.children.set(name, node);
    return node;
  }
}
