/**
 * What a program file says of itself: for which processor, its version resource, whether it brings a
 * picture, whether it carries a signature. The layout is that of the PE/COFF specification.
 */
import { ContainerFault, type ByteSource } from '../../container/bytes.ts';
import { ResourceDirectory, ICON_GROUP, VERSION } from './resources.ts';
import { readVersionResource, type VersionFacts } from './version-resource.ts';

export interface ProgramFacts {
  /** `x64`, `x86`, `arm64`, or the number of a processor that we do not know. */
  readonly processor: string;
  readonly isLibrary: boolean;
  /** Whether a signature is attached. It is not checked: that takes the publisher's chain. */
  readonly carriesSignature: boolean;
  readonly hasIcon: boolean;
  readonly version: VersionFacts | undefined;
}

const processors: Readonly<Record<number, string>> = { 0x14c: 'x86', 0x8664: 'x64', 0xaa64: 'arm64' };
const LIBRARY = 0x2000;
const WIDE = 0x20b;
const NARROW = 0x10b;
const RESOURCES = 2;
const CERTIFICATES = 4;
const MOST_SECTIONS = 96;

/** Place of a part in the file, bytes. */
interface Part {
  readonly offset: number;
  readonly size: number;
}

/**
 * Reads the headers and the resources of a program. Nothing for what is no program file. Throws
 * `ContainerFault` for one that is broken. Reads no more than a few hundred kilobytes.
 */
export async function readProgram(source: ByteSource): Promise<ProgramFacts | undefined> {
  if (source.size < 64) return undefined;
  const start = viewOf(await source.read(0, 64));
  if (start.getUint16(0, true) !== 0x5a4d) return undefined;
  const at = start.getUint32(0x3c, true);
  if (at + 24 > source.size) return undefined;
  const head = viewOf(await source.read(at, 24));
  if (head.getUint32(0, true) !== 0x4550) return undefined;
  const optionalSize = head.getUint16(20, true);
  const optional = viewOf(await source.read(at + 24, optionalSize));
  const parts = directories(optional);
  const resources = await resourcePart(source, head, at + 24 + optionalSize, parts[RESOURCES]);
  const tree = resources && new ResourceDirectory(source, resources.part, resources.rva);
  const version = await tree?.first(VERSION);
  return {
    processor: processors[head.getUint16(4, true)] ?? `0x${head.getUint16(4, true).toString(16)}`,
    isLibrary: (head.getUint16(22, true) & LIBRARY) !== 0,
    carriesSignature: (parts[CERTIFICATES]?.size ?? 0) > 8,
    hasIcon: (await tree?.has(ICON_GROUP)) ?? false,
    version: version && readVersionResource(version),
  };
}

function viewOf(bytes: Uint8Array): DataView {
  return new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength);
}

/** The directories of the optional header; addresses in memory, but for certificates in the file. */
function directories(optional: DataView): Part[] {
  if (optional.byteLength < 2) return [];
  const magic = optional.getUint16(0, true);
  if (magic !== WIDE && magic !== NARROW)
    throw new ContainerFault(`has an optional header of the unknown kind 0x${magic.toString(16)}`);
  const first = magic === WIDE ? 112 : 96;
  if (optional.byteLength < first) throw new ContainerFault('has an optional header that is cut short');
  const said = optional.getUint32(first - 4, true);
  const there = Math.floor((optional.byteLength - first) / 8);
  return Array.from({ length: Math.min(said, there, 16) }, (_none, i) => ({
    offset: optional.getUint32(first + i * 8, true),
    size: optional.getUint32(first + i * 8 + 4, true),
  }));
}

/** Where in the file the resources are: the section that holds their address in memory. */
async function resourcePart(
  source: ByteSource,
  head: DataView,
  tableAt: number,
  wanted: Part | undefined,
): Promise<{ part: Part; rva: number } | undefined> {
  if (!wanted || wanted.size === 0) return undefined;
  const count = head.getUint16(6, true);
  if (count > MOST_SECTIONS) throw new ContainerFault(`has ${count} sections`);
  const table = viewOf(await source.read(tableAt, count * 40));
  for (let i = 0; i < count; i++) {
    const [memory, rawSize, raw] = [12, 16, 20].map((field) => table.getUint32(i * 40 + field, true)) as [
      number,
      number,
      number,
    ];
    if (wanted.offset < memory || wanted.offset >= memory + rawSize) continue;
    const offset = raw + wanted.offset - memory;
    return { part: { offset, size: Math.min(wanted.size, source.size - offset) }, rva: wanted.offset };
  }
  throw new ContainerFault('says that it has resources, but no section holds them');
}
