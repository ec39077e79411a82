/** The tree in an OCI image layout: its layers laid over each other, files read where the last one is. */
import { ContainerFault } from '@vatline/core/container/bytes';
import { EntryList, limitsFor, type ReadLimits } from '@vatline/core/container/limits';
import { inPieces } from '@vatline/core/container/pieces';
import { safePath } from '@vatline/core/container/safe-path';
import { readTar, type TarMember, type TarPart } from '@vatline/core/container/tar/read';
import { withExtras, type Tree, type TreeEntry } from '@vatline/core/container/tree';
import { compareBytes } from '@vatline/core/inventory/entry';
import { InputError } from './input-error.ts';
import { unzippedLayer, type Layout } from './oci-layout.ts';

/** Where a file's content lies: the how manyeth entry of which layer. */
interface Place {
  readonly layer: number;
  readonly number: number;
}

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
      for await (const { member } of tarEntries(layout, layer, limits)) overlay.add(member);
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
        yield* inPieces(found.content, piece);
        return;
      }
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
        if (entry) yield { entry, bytes: found.content };
      }
    }
    for (const entry of again) yield { entry, bytes: this.read(entry, 1 << 18) };
  }
}

async function* tarEntries(layout: Layout, layer: number, limits: ReadLimits): AsyncGenerator<TarPart> {
  const descriptor = layout.manifest.layers[layer];
  if (!descriptor) return;
  const most = limits.bytes + limits.entries * 1024;
  try {
    yield* readTar(unzippedLayer(layout.folder, descriptor, most));
  } catch (error) {
    if (error instanceof InputError) throw error;
    const why = error instanceof Error ? error.message : String(error);
    throw new ContainerFault(
      error instanceof ContainerFault
        ? `has a layer ${layer + 1} that ${why}`
        : `has a layer ${layer + 1} that cannot be unpacked: ${why}`,
    );
  }
}

interface OverlayNode {
  entry?: TreeEntry;
  /** Of a file. */
  place?: Place;
  /** Layer that put it last; -1 for a folder that is only above others. */
  layer: number;
  /** Layers before this one are hidden here and below, by a whiteout; before the other one, below only. */
  hiddenBefore: number;
  childrenHiddenBefore: number;
  readonly children: Map<string, OverlayNode>;
}

function emptyNode(): OverlayNode {
  return { layer: -1, hiddenBefore: 0, childrenHiddenBefore: 0, children: new Map() };
}

/** Systems give up following after so many links. */
const MOST_FOLLOWED = 40;

/**
 * Layers laid over each other, entry by entry. A whiteout hides what lower layers brought and
 * nothing of its own layer, wherever it stands in it; so it is noted, and what is hidden is known
 * when all is read. Taking a folder away costs the same however much is in it.
 */
class Overlay {
  private readonly root: OverlayNode = emptyNode();
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

  add(member: TarMember): void {
    const place = { layer: this.layer, number: this.number++ };
    if (/^\.?\/*$/.test(member.path)) return;
    const path = pathOf(member.path);
    if (member.isSparse)
      throw new ContainerFault(`holds ${path} as a sparse file of the GNU kind, which is not read`);
    const parts = path.split('/');
    const name = parts.pop() ?? '';
    if (name === OPAQUE) this.folderAt(parts, false).node.childrenHiddenBefore = this.layer;
    else if (name.startsWith(WHITEOUT))
      this.childOf(this.folderAt(parts, false).node, name.slice(WHITEOUT.length)).hiddenBefore = this.layer;
    else {
      const folder = this.folderAt(parts, true);
      this.put(folder.node, name, folder.path === '' ? name : `${folder.path}/${name}`, member, place);
    }
  }

  /** What is left, sorted by path, and where the files among it lie. */
  result(): { entries: TreeEntry[]; places: Map<TreeEntry, Place> } {
    const entries: TreeEntry[] = [];
    const places = new Map<TreeEntry, Place>();
    const visit = (node: OverlayNode, path: string, hidden: number): boolean => {
      const own = Math.max(hidden, node.hiddenBefore);
      const isThere = node.entry !== undefined && node.layer >= own;
      let holds = false;
      if (!isThere || node.entry?.kind === 'folder')
        for (const [name, child] of node.children)
          if (visit(child, path === '' ? name : `${path}/${name}`, Math.max(own, node.childrenHiddenBefore)))
            holds = true;
      if (isThere && node.entry) {
        entries.push(node.entry);
        if (node.place) places.set(node.entry, node.place);
      } else if (holds && path !== '') entries.push(plainFolder(path));
      return isThere || holds;
    };
    visit(this.root, '', 0);
    entries.sort((a, b) => compareBytes(a.path, b.path));
    return markSame(entries, places);
  }

  private childOf(node: OverlayNode, name: string): OverlayNode {
    let child = node.children.get(name);
    if (!child) node.children.set(name, (child = emptyNode()));
    return child;
  }

  /** A node by its path as it is now, whatever is hidden left out. */
  private find(path: string): OverlayNode | undefined {
    let node: OverlayNode | undefined = this.root;
    let hidden = 0;
    for (const part of path.split('/')) {
      hidden = Math.max(hidden, node.hiddenBefore, node.childrenHiddenBefore);
      node = node.children.get(part);
      if (!node) return undefined;
    }
    return node.layer >= Math.max(hidden, node.hiddenBefore) ? node : undefined;
  }

  /**
   * The folder that parts lead to, through links as a system goes through them, never out of the
   * root. Folders on the way are made, but for a whiteout, which may hide what is not there.
   */
  private folderAt(parts: readonly string[], makes: boolean): { node: OverlayNode; path: string } {
    const ahead = [...parts].reverse();
    let way: string[] = [];
    let nodes: OverlayNode[] = [this.root];
    let followed = 0;
    for (let part = ahead.pop(); part !== undefined; part = ahead.pop()) {
      if (part === '..') {
        way = way.slice(0, -1);
        nodes = nodes.slice(0, Math.max(1, nodes.length - 1));
        continue;
      }
      if (part === '' || part === '.') continue;
      const parent = nodes.at(-1) as OverlayNode;
      const node = this.childOf(parent, part);
      const path = [...way, part].join('/');
      const isThere = node.entry !== undefined && node.layer >= node.hiddenBefore;
      if (isThere && node.entry?.kind === 'link') {
        if (++followed > MOST_FOLLOWED)
          throw new ContainerFault(`has an entry below ${path}, a circle of links`);
        const target = node.entry.target ?? '';
        if (target.startsWith('/')) {
          way = [];
          nodes = [this.root];
        }
        ahead.push(...target.split('/').reverse());
        continue;
      }
      if (isThere && node.entry?.kind === 'file')
        throw new ContainerFault(`has an entry below ${path}, which is a file`);
      if (!isThere && makes) {
        node.entry = plainFolder(path);
        node.layer = this.layer;
        delete node.place;
        this.list.add(node.entry);
      }
      way.push(part);
      nodes.push(node);
    }
    return { node: nodes.at(-1) as OverlayNode, path: way.join('/') };
  }

  private put(folder: OverlayNode, name: string, path: string, member: TarMember, place: Place): void {
    const { kind, mode, modified, size, target } = member;
    if (kind === 'other')
      throw new ContainerFault(`holds ${path}, a ${member.kindName}; files, folders and links are read`);
    if (kind === 'same') return this.hardLink(folder, name, path, target);
    const plain: TreeEntry = { path, kind, size, mode, modified, ...(kind === 'link' ? { target } : {}) };
    this.set(folder, name, withExtras(plain, member), kind === 'file' ? place : undefined);
  }

  /** One more name of a file or link: all that it is, its own name apart. */
  private hardLink(folder: OverlayNode, name: string, path: string, target: string): void {
    const safe = safePath(target);
    const other = safe.ok ? this.find(safe.value) : undefined;
    if (!other?.entry || (other.entry.kind !== 'link' && !other.place))
      throw new ContainerFault(`has ${path} as a hard link to ${target}, which is no file`);
    const same = other.entry.kind === 'file' ? { sameAs: other.entry.path } : {};
    this.set(folder, name, { ...other.entry, path, ...same }, other.place);
  }

  /** A folder over a folder keeps what is in it; anything else takes the place of what was there. */
  private set(folder: OverlayNode, name: string, entry: TreeEntry, place: Place | undefined): void {
    this.list.add(entry);
    const node = this.childOf(folder, name);
    const isKept = entry.kind === 'folder' && node.entry?.kind === 'folder';
    // What was below a file or link before it became a folder again is gone, of this layer too.
    if (!isKept && node.entry !== undefined) node.children.clear();
    node.entry = entry;
    node.layer = this.layer;
    if (place) node.place = place;
    else delete node.place;
  }
}

/** Files of one place are one file: all but the first that is left point to that. */
function markSame(
  entries: readonly TreeEntry[],
  places: ReadonlyMap<TreeEntry, Place>,
): { entries: TreeEntry[]; places: Map<TreeEntry, Place> } {
  const first = new Map<string, string>();
  const marked: TreeEntry[] = [];
  const ofMarked = new Map<TreeEntry, Place>();
  for (const entry of entries) {
    const place = places.get(entry);
    const key = place && `${place.layer}:${place.number}`;
    const sameAs = key === undefined ? undefined : first.get(key);
    if (key !== undefined && sameAs === undefined) first.set(key, entry.path);
    // What the layers called the same may be hidden, or come later in the order of names.
    const { sameAs: _inLayers, ...plain } = entry;
    const own: TreeEntry = sameAs === undefined ? plain : { ...plain, sameAs };
    marked.push(own);
    if (place) ofMarked.set(own, place);
  }
  return { entries: marked, places: ofMarked };
}

function pathOf(name: string): string {
  const safe = safePath(name);
  if (safe.ok) return safe.value;
  const [fault] = safe.error;
  throw new ContainerFault(
    `has the path ${JSON.stringify(fault?.path ?? '')}, which ${fault?.message ?? ''}`,
  );
}

function plainFolder(path: string): TreeEntry {
  return { path, kind: 'folder', size: 0, mode: 0o755, modified: 0 };
}
