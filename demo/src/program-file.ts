/** Program files of made-up applications, in the layout of the PE/COFF specification: they say who made them. */
import { StructWriter } from '@vatline/core/container/struct';

export interface ProgramFile {
  /** What the program consists of. */
  readonly code: Uint8Array;
  readonly isLibrary: boolean;
  readonly product: string;
  readonly company: string;
  readonly description: string;
  /** Numbers with dots. */
  readonly version: string;
  /** Pictures as PNG, largest last; none for a program without a picture. */
  readonly pictures: readonly { readonly size: number; readonly png: Uint8Array }[];
  /** Whether bytes stand where a signature stands. */
  readonly isSigned: boolean;
}

const ALIGN = 512;
const PAGE = 4096;
const HEADERS = 1024;
const CODE_ADDRESS = PAGE;

/** The whole file. The same program gives the same bytes. */
export function programFile(program: ProgramFile): Buffer {
  const code = padded(program.code);
  const resourceAddress = CODE_ADDRESS + up(Math.max(1, code.length), PAGE);
  const resources = padded(resourceSection(program, resourceAddress));
  const certificate = program.isSigned ? certificateEntry() : new Uint8Array();
  const signedAt = HEADERS + code.length + resources.length;
  const header = new StructWriter(HEADERS);
  header.text('MZ').seek(0x3c).u32(0x80).seek(0x80).text('PE').u16(0);
  header
    .u16(0x8664)
    .u16(2)
    .u32(0)
    .u32(0)
    .u32(0)
    .u16(240)
    .u16(program.isLibrary ? 0x2022 : 0x22);
  header.u16(0x20b).u16(0).u32(code.length).u32(resources.length).u32(0).u32(CODE_ADDRESS).u32(CODE_ADDRESS);
  header.u64(0x10000000).u32(PAGE).u32(ALIGN).u16(6).u16(0).u16(0).u16(0).u16(6).u16(0).u32(0);
  header
    .u32(resourceAddress + up(resources.length, PAGE))
    .u32(HEADERS)
    .u32(0)
    .u16(2)
    .u16(0);
  header.u64(0x100000).u64(PAGE).u64(0x100000).u64(PAGE).u32(0).u32(16);
  const directories = 0x80 + 24 + 112;
  header
    .seek(directories + 2 * 8)
    .u32(resourceAddress)
    .u32(resources.length);
  if (certificate.length > 0)
    header
      .seek(directories + 4 * 8)
      .u32(signedAt)
      .u32(certificate.length);
  header.seek(0x80 + 24 + 240);
  section(header, '.text', CODE_ADDRESS, code.length, HEADERS, 0x60000020);
  section(header, '.rsrc', resourceAddress, resources.length, HEADERS + code.length, 0x40000040);
  return Buffer.concat([header.bytes, code, resources, certificate]);
}

function section(
  header: StructWriter,
  name: string,
  address: number,
  size: number,
  offset: number,
  traits: number,
): void {
  header.text(name.padEnd(8, '\0')).u32(size).u32(address).u32(size).u32(offset);
  header.u32(0).u32(0).u16(0).u16(0).u32(traits);
}

/** A place for a signature: made-up bytes, since nobody here is its publisher. */
function certificateEntry(): Uint8Array {
  const bytes = new Uint8Array(512);
  new StructWriter(8)
    .u32(bytes.length)
    .u16(0x200)
    .u16(2)
    .bytes.forEach((byte, i) => (bytes[i] = byte));
  for (let i = 8; i < bytes.length; i++) bytes[i] = (i * 151) & 0xff;
  return bytes;
}

interface Resource {
  readonly type: number;
  readonly id: number;
  readonly data: Uint8Array;
}

/** Types, ids, one language; then where each resource is; then the resources. */
function resourceSection(program: ProgramFile, address: number): Uint8Array {
  const resources = resourcesOf(program);
  const types = [...new Set(resources.map((one) => one.type))];
  const directory = (rows: number) => 16 + rows * 8;
  const idsAt: number[] = [];
  let at = directory(types.length);
  for (const type of types) {
    idsAt.push(at);
    at += directory(resources.filter((one) => one.type === type).length);
  }
  const languagesAt = at;
  const leavesAt = languagesAt + resources.length * directory(1);
  let dataAt = up(leavesAt + resources.length * 16, 8);
  const places = resources.map(({ data }) => {
    const here = dataAt;
    dataAt = up(dataAt + data.length, 8);
    return here;
  });
  const out = new StructWriter(dataAt);
  const rows = (place: number, list: readonly { id: number; to: number; isDirectory: boolean }[]) => {
    out
      .seek(place + 12)
      .u16(0)
      .u16(list.length);
    for (const { id, to, isDirectory } of list) out.u32(id).u32(isDirectory ? to + 0x80000000 : to);
  };
  rows(
    0,
    types.map((id, i) => ({ id, to: idsAt[i] ?? 0, isDirectory: true })),
  );
  for (const [i, type] of types.entries())
    rows(
      idsAt[i] ?? 0,
      resources.flatMap((one, n) =>
        one.type === type ? [{ id: one.id, to: languagesAt + n * directory(1), isDirectory: true }] : [],
      ),
    );
  for (const [n, { data }] of resources.entries()) {
    rows(languagesAt + n * directory(1), [{ id: 0x409, to: leavesAt + n * 16, isDirectory: false }]);
    out
      .seek(leavesAt + n * 16)
      .u32(address + (places[n] ?? 0))
      .u32(data.length)
      .u32(0)
      .u32(0);
    out.seek(places[n] ?? 0).raw(data);
  }
  return out.bytes;
}

function resourcesOf(program: ProgramFile): Resource[] {
  const icons = program.pictures.map(({ png }, i): Resource => ({ type: 3, id: i + 1, data: png }));
  const group: Resource[] = icons.length > 0 ? [{ type: 14, id: 1, data: iconGroup(program.pictures) }] : [];
  return [...icons, ...group, { type: 16, id: 1, data: versionResource(program) }];
}

function iconGroup(pictures: ProgramFile['pictures']): Uint8Array {
  const out = new StructWriter(6 + pictures.length * 14).u16(0).u16(1).u16(pictures.length);
  for (const [i, { size, png }] of pictures.entries())
    out
      .u8(size % 256)
      .u8(size % 256)
      .u8(0)
      .u8(0)
      .u16(1)
      .u16(32)
      .u32(png.length)
      .u16(i + 1);
  return out.bytes;
}

function versionResource({ product, company, description, version }: ProgramFile): Uint8Array {
  const texts = Object.entries({
    CompanyName: company,
    FileDescription: description,
    FileVersion: version,
    ProductName: product,
    ProductVersion: version,
  }).map(([name, text]) => block(name, utf16(`${text}\0`), text.length + 1, 1, []));
  const numbers = version.split('.').map((part) => Number.parseInt(part, 10) || 0);
  const [high, low] = [(numbers[0] ?? 0) * 65_536 + (numbers[1] ?? 0), (numbers[2] ?? 0) * 65_536];
  const fixed = new StructWriter(52).u32(0xfeef04bd).u32(0x10000).u32(high).u32(low).u32(high).u32(low);
  const info = block('StringFileInfo', new Uint8Array(), 0, 1, [
    block('040904b0', new Uint8Array(), 0, 1, texts),
  ]);
  return block('VS_VERSION_INFO', fixed.bytes, 52, 0, [info]);
}

/** Length, length of the value, kind, name, value, what is inside; each part on a border of four. */
function block(
  name: string,
  value: Uint8Array,
  valueLength: number,
  kind: 0 | 1,
  inside: readonly Uint8Array[],
): Uint8Array {
  const nameBytes = utf16(`${name}\0`);
  const parts = [new Uint8Array(6), nameBytes];
  const pad = () => {
    const length = parts.reduce((sum, part) => sum + part.length, 0);
    parts.push(new Uint8Array(up(length, 4) - length));
  };
  pad();
  parts.push(value);
  for (const one of inside) {
    pad();
    parts.push(one);
  }
  const bytes = Buffer.concat(parts);
  bytes.writeUInt16LE(bytes.length, 0);
  bytes.writeUInt16LE(valueLength, 2);
  bytes.writeUInt16LE(kind, 4);
  return bytes;
}

function utf16(text: string): Uint8Array {
  return Buffer.from(text, 'utf16le');
}

function padded(bytes: Uint8Array): Uint8Array {
  return Buffer.concat([bytes, new Uint8Array(up(bytes.length, ALIGN) - bytes.length)]);
}

function up(size: number, to: number): number {
  return Math.ceil(size / to) * to;
}
