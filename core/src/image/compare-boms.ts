/** Two bills of materials side by side, ours or anybody's in CycloneDX JSON. */
import { ok, refuse, type Result } from '../result.ts';

export interface ListedComponent {
  readonly type: string;
  readonly publisher: string;
  readonly name: string;
  readonly version: string;
  /** Name or expression of its licence, empty when unknown. */
  readonly licence: string;
  /** Digest of the component or of its files together, empty when none is given. */
  readonly digest: string;
}

export interface ReadBom {
  /** What it is of: name and version. */
  readonly subject: string;
  readonly components: readonly ListedComponent[];
}

export interface BomComparison {
  readonly added: readonly ListedComponent[];
  readonly removed: readonly ListedComponent[];
  readonly changed: readonly {
    readonly before: ListedComponent;
    readonly after: ListedComponent;
    /** What differs; `content` when only digests do. */
    readonly fields: readonly ('version' | 'licence' | 'content')[];
  }[];
  readonly same: number;
}

type Loose = Readonly<Record<string, unknown>>;

/** Reads the components at the top of a bill of materials. Errors: no JSON, no CycloneDX, no components. */
export function readBom(text: string): Result<ReadBom> {
  let document: unknown;
  try {
    document = JSON.parse(text);
  } catch {
    return refuse('', 'is not JSON');
  }
  if (!isObject(document)) return refuse('', 'is not a bill of materials: it is not a JSON object');
  if (document['bomFormat'] !== 'CycloneDX')
    return refuse('bomFormat', 'is not "CycloneDX", so this is no bill of materials that can be read here');
  const listed = document['components'] ?? [];
  if (!Array.isArray(listed)) return refuse('components', 'is not a list');
  const components: ListedComponent[] = [];
  for (const [i, component] of listed.entries()) {
    if (!isObject(component) || typeof component['name'] !== 'string')
      return refuse(`components.${i}`, 'has no name');
    components.push(listedComponent(component));
  }
  const metadata = isObject(document['metadata']) ? document['metadata'] : {};
  const root = isObject(metadata['component']) ? metadata['component'] : {};
  return ok({ subject: `${textOf(root['name'])} ${textOf(root['version'])}`.trim(), components });
}

/** Components are the same by type, publisher and name; several versions of one are told apart by version. */
export function compareBoms(before: ReadBom, after: ReadBom): BomComparison {
  const [old, now] = [byIdentity(before.components), byIdentity(after.components)];
  const added: ListedComponent[] = [];
  const removed: ListedComponent[] = [];
  const changed: BomComparison['changed'][number][] = [];
  let same = 0;
  for (const [identity, list] of now) {
    const rest = [...(old.get(identity) ?? [])];
    // Equal versions pair first, so that one of two versions may change alone.
    const unpaired = list.filter((component) => {
      const at = rest.findIndex((other) => other.version === component.version);
      if (at < 0) return true;
      const fields = differing(rest[at] as ListedComponent, component);
      if (fields.length === 0) same += 1;
      else changed.push({ before: rest[at] as ListedComponent, after: component, fields });
      rest.splice(at, 1);
      return false;
    });
    for (const component of unpaired) {
      const other = rest.shift();
      if (other) changed.push({ before: other, after: component, fields: differing(other, component) });
      else added.push(component);
    }
    removed.push(...rest);
  }
  for (const [identity, list] of old) if (!now.has(identity)) removed.push(...list);
  return { added, removed, changed, same };
}

function listedComponent(component: Loose): ListedComponent {
  return {
    type: textOf(component['type']),
    publisher: textOf(component['publisher'] ?? component['group']),
    name: textOf(component['name']),
    version: textOf(component['version']),
    licence: licenceOf(component['licenses']),
    digest: digestOf(component),
  };
}

function licenceOf(licences: unknown): string {
  if (!Array.isArray(licences)) return '';
  return licences
    .map((row: unknown) => {
      if (!isObject(row)) return '';
      const licence = isObject(row['license']) ? row['license'] : {};
      return textOf(row['expression'] ?? licence['id'] ?? licence['name']);
    })
    .filter(Boolean)
    .join(', ');
}

/** Its own digests and those of its parts, in their order. */
function digestOf(component: Loose): string {
  const own = Array.isArray(component['hashes']) ? component['hashes'] : [];
  const parts = Array.isArray(component['components']) ? component['components'] : [];
  const digests = own.map((hash: unknown) => (isObject(hash) ? textOf(hash['content']) : ''));
  return [...digests, ...parts.map((part: unknown) => (isObject(part) ? digestOf(part) : ''))].join(' ');
}

function differing(before: ListedComponent, after: ListedComponent): ('version' | 'licence' | 'content')[] {
  const fields: ('version' | 'licence' | 'content')[] = [];
  if (before.version !== after.version) fields.push('version');
  if (before.licence !== after.licence) fields.push('licence');
  if (fields.length === 0 && before.digest !== after.digest) fields.push('content');
  return fields;
}

function byIdentity(components: readonly ListedComponent[]): Map<string, ListedComponent[]> {
  const lists = new Map<string, ListedComponent[]>();
  for (const component of components) {
    const identity = [component.type, component.publisher, component.name].join('\0').toLowerCase();
    lists.set(identity, [...(lists.get(identity) ?? []), component]);
  }
  return lists;
}

function isObject(value: unknown): value is Loose {
  return typeof value === 'object' && value !== null && !Array.isArray(value);
}

function textOf(value: unknown): string {
  return typeof value === 'string' ? value : '';
}
