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
    this.entries = found.entries();
    this.places = found.places;
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

/** Layers laid over each other, entry by entry. */
class Overlay {
  readonly places = new Map<TreeEntry, Place>();
  private readonly byPath = new Map<string, TreeEntry>();
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
    const path = safe.value;
    const slash = path.lastIndexOf('/');
    const [folder, name] = [path.slice(0, Math.max(0, slash)), path.slice(slash + 1)];
    if (name === OPAQUE) return this.clear(folder);
    if (name.startsWith(WHITEOUT)) {
      const gone = name.slice(WHITEOUT.length);
      return this.remove(folder === '' ? gone : `${folder}/${gone}`);
    }
    this.makeParents(folder);
    return this.put(path, header, place);
  }

  entries(): TreeEntry[] {
    return [...this.byPath.values()].sort((a, b) => compareBytes(a.path, b.path));
  }

  private put(path: string, header: tar.Header, place: Place): void {
    const { type, mode, mtime, size, linkname } = header;
    const common = {
      path,
      mode: (mode ?? 0o644) & 0o7777,
      modified: Math.floor((mtime?.getTime() ?? 0) / 1000),
    };
    if (type === 'directory') {
      if (this.byPath.get(path)?.kind !== 'folder') this.remove(path);
      this.set({ ...common, kind: 'folder', size: 0 });
      return;
    }
    this.remove(path);
    if (type === 'symlink') this.set({ ...common, kind: 'link', size: 0, target: linkname ?? '' });
    else if (type === 'link') this.hardLink(common, linkname ?? '');
    else if (type === 'file' || type === 'contiguous-file')
      this.set({ ...common, kind: 'file', size: size ?? 0 }, place);
    else
      throw new ContainerFault(
        `holds ${path}, a ${type ?? 'special entry'}; files, folders and links are read`,
      );
  }

  private hardLink(common: Pick<TreeEntry, 'path' | 'mode' | 'modified'>, target: string): void {
    const safe = safePath(target);
    const other = safe.ok ? this.byPath.get(safe.value) : undefined;
    const place = other && this.places.get(other);
    if (!other || !place)
      throw new ContainerFault(`has ${common.path} as a hard link to ${target}, which is no file`);
    this.set({ ...common, kind: 'file', size: other.size }, place);
  }

  private set(entry: TreeEntry, place?: Place): void {
    this.list.add(entry);
    const before = this.byPath.get(entry.path);
    if (before) this.places.delete(before);
    this.byPath.set(entry.path, entry);
    if (place) this.places.set(entry, place);
  }

  private makeParents(folder: string): void {
    if (folder === '') return;
    const known = this.byPath.get(folder);
    if (known?.kind === 'folder') return;
    if (known) throw new ContainerFault(`has an entry below ${folder}, which is a ${known.kind}`);
    this.makeParents(folder.slice(0, Math.max(0, folder.lastIndexOf('/'))));
    this.set({ path: folder, kind: 'folder', size: 0, mode: 0o755, modified: 0 });
  }

  private remove(path: string): void {
    const entry = this.byPath.get(path);
    if (!entry) return;
    this.byPath.delete(path);
    this.places.delete(entry);
    if (entry.kind === 'folder') this.clear(path);
  }

  private clear(folder: string): void {
    const below = folder === '' ? '' : `${folder}/`;
    for (const [path, entry] of this.byPath) {
      if (!path.startsWith(below)) continue;
      this.byPath.delete(path);
      this.places.delete(entry);
    }
  }
}
