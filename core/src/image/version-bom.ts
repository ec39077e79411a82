/**
 * Bill of materials of an image version: CycloneDX 1.6 (ECMA-424) JSON. Applications with their
 * files' digests, updates, drivers and certificates; files that belong to no application are counted.
 */
import { sha256 } from '@noble/hashes/sha2.js';
import { bytesToHex, utf8ToBytes } from '@noble/hashes/utils.js';
import { formatInstant } from '../time/instant.ts';
import { canonicalJson } from './checkpoint-plan.ts';
import type { ApplicationEntry, Entry, FileEntry } from '../inventory/entry.ts';
import { ownersOf } from './owned-entries.ts';

export interface BomSubject {
  readonly line: string;
  readonly number: number;
  /** When it was cut, milliseconds. */
  readonly cutAt: number;
  /** Name of a licence by publisher and application, where known. */
  licenceOf(publisher: string, name: string): string | undefined;
}

export interface BomComponent {
  readonly type: string;
  readonly 'bom-ref': string;
  readonly name: string;
  readonly version?: string;
  readonly publisher?: string;
  readonly purl?: string;
  readonly hashes?: readonly { readonly alg: 'SHA-256'; readonly content: string }[];
  readonly licenses?: readonly { readonly license: { readonly name: string } }[];
  readonly components?: readonly BomComponent[];
}

export interface Bom {
  readonly bomFormat: 'CycloneDX';
  readonly specVersion: '1.6';
  readonly serialNumber: string;
  readonly version: 1;
  readonly metadata: {
    readonly timestamp: string;
    readonly component: BomComponent;
    readonly properties: readonly { readonly name: string; readonly value: string }[];
  };
  readonly components: readonly BomComponent[];
  readonly dependencies: readonly { readonly ref: string; readonly dependsOn: readonly string[] }[];
}

/** The same inventory and subject give the same document. */
export function versionBom(subject: BomSubject, entries: readonly Entry[]): Bom {
  const applications = entries.filter((entry) => entry.kind === 'application');
  const files = filesByApplication(entries, applications);
  const components = [
    ...applications.map((application) => applicationComponent(application, files, subject)),
    ...entries.flatMap(otherComponent),
  ];
  const root = `${subject.line}@${subject.number}`;
  const owned = [...files.values()].reduce((sum, list) => sum + list.length, 0);
  const all = entries.filter((entry) => entry.kind === 'file').length;
  return {
    bomFormat: 'CycloneDX',
    specVersion: '1.6',
    serialNumber: serialNumber(root, components),
    version: 1,
    metadata: {
      timestamp: formatInstant(subject.cutAt),
      component: { type: 'platform', 'bom-ref': root, name: subject.line, version: String(subject.number) },
      properties: [
        { name: 'vatline:files', value: String(all) },
        { name: 'vatline:files-of-no-application', value: String(all - owned) },
      ],
    },
    components,
    dependencies: [{ ref: root, dependsOn: components.map((component) => component['bom-ref']) }],
  };
}

function filesByApplication(
  entries: readonly Entry[],
  applications: readonly ApplicationEntry[],
): Map<ApplicationEntry, FileEntry[]> {
  const files = new Map<ApplicationEntry, FileEntry[]>();
  for (const [entry, owner] of ownersOf(entries, applications)) {
    if (entry.kind !== 'file') continue;
    const list = files.get(owner);
    if (list) list.push(entry);
    else files.set(owner, [entry]);
  }
  return files;
}

function applicationComponent(
  application: ApplicationEntry,
  files: ReadonlyMap<ApplicationEntry, readonly FileEntry[]>,
  subject: BomSubject,
): BomComponent {
  const { publisher, name, version } = application;
  const licence = subject.licenceOf(publisher, name);
  return {
    type: 'application',
    'bom-ref': `application:${publisher}/${name}@${version}`,
    name,
    version,
    ...(publisher ? { publisher } : {}),
    purl: genericPurl(publisher, name, version),
    ...(licence ? { licenses: [{ license: { name: licence } }] } : {}),
    components: (files.get(application) ?? []).map(fileComponent),
  };
}

function fileComponent({ path, sha256: content }: FileEntry): BomComponent {
  return { type: 'file', 'bom-ref': `file:${path}`, name: path, hashes: [{ alg: 'SHA-256', content }] };
}

function otherComponent(entry: Entry): BomComponent[] {
  switch (entry.kind) {
    case 'update':
      return [{ type: 'operating-system', 'bom-ref': `update:${entry.name}`, name: entry.title }];
    case 'driver':
      return [
        {
          type: 'device-driver',
          'bom-ref': `driver:${entry.name}`,
          name: entry.name,
          version: entry.version,
        },
      ];
    case 'certificate':
      return [
        {
          type: 'file',
          'bom-ref': `certificate:${entry.store}/${entry.subject}`,
          name: `${entry.subject} (certificate in ${entry.store})`,
          hashes: [{ alg: 'SHA-256', content: entry.sha256 }],
        },
      ];
    default:
      return [];
  }
}

/** `pkg:generic/<publisher>/<name>@<version>` (package URL specification), each part percent-encoded. */
export function genericPurl(publisher: string, name: string, version: string): string {
  const part = (text: string) => encodeURIComponent(text.trim());
  return `pkg:generic/${publisher ? `${part(publisher)}/` : ''}${part(name)}@${part(version)}`;
}

/** A UUID (RFC 9562, version 8) from the content, so that equal content has an equal number. */
function serialNumber(root: string, components: readonly BomComponent[]): string {
  const hex = bytesToHex(sha256(utf8ToBytes(canonicalJson([root, components]))));
  const variant = '89ab'[parseInt(hex[16] as string, 16) % 4] as string;
  return `urn:uuid:${hex.slice(0, 8)}-${hex.slice(8, 12)}-8${hex.slice(13, 16)}-${variant}${hex.slice(17, 20)}-${hex.slice(20, 32)}`;
}
