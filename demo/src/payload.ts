/** Files of made-up installers: really generated, from a seed, of realistic compressibility. */
import type { Entry } from '@vatline/core/inventory/entry';
import type { EntryPoint } from '@vatline/core/container/manifest';
import { between, pick, seededRandom, type Random } from '@vatline/core/random';
import { iconFile, tilePng } from './picture-file.ts';
import { programFile } from './program-file.ts';

export interface InstallerPlan {
  readonly id: string;
  readonly name: string;
  readonly publisher: string;
  readonly version: string;
  readonly files: number;
  /** About how many bytes all files have together. */
  readonly bytes: number;
  readonly entryPoints: readonly EntryPoint[];
  /** What it sets that is not a file. */
  readonly settings: readonly Entry[];
  /** Whether it brings a program that updates it. */
  readonly updater: boolean;
  /** Whether it installs into the profile of whoever runs it. */
  readonly perUser?: boolean;
  /** Files it puts outside of its own folder, and their bytes. */
  readonly besides?: readonly { readonly path: string; readonly bytes: number }[];
  /** Whether it writes a log beside its programs. */
  readonly logs?: boolean;
  /** Endings of paths and settings that come only with a restart. */
  readonly afterRestart?: { readonly endings: readonly string[]; readonly settings: readonly Entry[] };
  /** Whether its programs carry no signature. */
  readonly unsigned?: boolean;
  /** Its picture; a good one when nothing is said. */
  readonly picture?: 'good' | 'cut short' | 'small' | 'none';
  /** Name of its licence, where the library knows it. */
  readonly licence?: string;
}

export interface PayloadFile {
  readonly path: string;
  readonly content: Buffer;
}

const words =
  'shelf reader branch loan return archive card index map sheet record county line table value entry order page title press date name place note file part list open close mark'.split(
    ' ',
  );
const places = ['resources', 'locales', 'templates', 'help', 'plugins', 'icons'];

/** Folder of an application's programs. */
export function programFolder(name: string, perUser = false): string {
  return perUser ? `Users/packager/Local/${name}` : `Program files/${name}`;
}

function text(random: Random, bytes: number): Buffer {
  const parts: string[] = [];
  for (let length = 0; length < bytes;) {
    const line = Array.from({ length: between(random, 5, 12) }, () => pick(random, words)).join(' ');
    parts.push(line);
    length += line.length + 1;
  }
  return Buffer.from(parts.join('\n').slice(0, bytes));
}

function table(random: Random, bytes: number): Buffer {
  const rows = ['id;place;count;rate'];
  for (let length = 0, i = 1; length < bytes; i++) {
    const row = `${i};${pick(random, words)};${between(random, 1, 9_999)};${random().toFixed(3)}`;
    rows.push(row);
    length += row.length + 1;
  }
  return Buffer.from(rows.join('\n').slice(0, bytes));
}

/** Noise compresses not at all, runs compress well; a program is some of each. */
function binary(random: Random, bytes: number, noisy: number): Buffer {
  const content = Buffer.alloc(bytes);
  const block = 512;
  for (let at = 0; at < bytes; at += block) {
    if (random() >= noisy) {
      content.fill(between(random, 0, 255), at, Math.min(bytes, at + block));
      continue;
    }
    for (let i = at; i + 4 <= Math.min(bytes, at + block); i += 4)
      content.writeUInt32LE(Math.floor(random() * 4294967296), i);
  }
  return content;
}

/** The files an installer puts on a machine. The same plan gives the same bytes. */
export function* generatePayload(plan: InstallerPlan): Generator<PayloadFile> {
  const folder = programFolder(plan.name, plan.perUser);
  const program = plan.name.split(' ')[0]?.toLowerCase() ?? 'program';
  const random = seededRandom(`payload ${plan.name}`);
  const main = Math.round(plan.bytes * 0.3);
  yield {
    path: `${folder}/${program}.exe`,
    content: programOf(plan, binary(seededRandom(`${plan.name} ${plan.version}`), main, 0.4), plan.name),
  };
  if (plan.updater)
    yield {
      path: `${folder}/updater/${program}-update.exe`,
      content: programOf(plan, binary(random, 180_000, 0.4), `${plan.name} update`),
    };
  for (const { path, bytes } of plan.besides ?? [])
    yield { path, content: binary(seededRandom(`${path} of ${plan.name}`), bytes, 0.4) };
  yield* partsOf(plan, random, Math.round((plan.bytes - main) / Math.max(1, plan.files - 1)));
}

/** What lies beside the programs: one picture, then libraries, texts, tables and packed data. */
function* partsOf(plan: InstallerPlan, random: Random, usual: number): Generator<PayloadFile> {
  const folder = programFolder(plan.name, plan.perUser);
  const rest = Math.max(200, usual);
  let last: Buffer | undefined;
  for (let i = 1; i < plan.files; i++) {
    const size = between(random, Math.round(rest * 0.2), Math.round(rest * 1.8));
    const place = pick(random, places);
    if (i === 1 && plan.picture !== 'none') {
      yield { path: `${folder}/${plan.name.split(' ')[0] ?? ''}.ico`, content: pictureOf(plan) };
      continue;
    }
    // One file in twelve is a copy of the one before it, as installers do.
    const content: Buffer = last && i % 12 === 0 ? last : contentOf(plan, random, i, size);
    last = content;
    yield { path: `${folder}/${place}/${place.slice(0, -1)}-${i}${extensionOf(i)}`, content };
  }
}

/** A program that says what it is. */
function programOf(plan: InstallerPlan, code: Buffer, description: string, isLibrary = false): Buffer {
  const hasPicture = !isLibrary && plan.picture !== 'none';
  return programFile({
    code,
    isLibrary,
    product: plan.name,
    company: plan.publisher,
    description,
    version: plan.version,
    pictures: hasPicture ? [{ size: 48, png: tilePng(plan.name, 48) }] : [],
    isSigned: !plan.unsigned,
  });
}

function pictureOf(plan: InstallerPlan): Buffer {
  const sizes = plan.picture === 'small' ? [16] : [16, 48, 256];
  const icon = iconFile(sizes.map((size) => ({ size, png: tilePng(plan.name, size) })));
  return plan.picture === 'cut short' ? icon.subarray(0, Math.round(icon.length * 0.6)) : icon;
}

function extensionOf(i: number): string {
  return ['.dll', '.txt', '.csv', '.pak'][i % 4] ?? '.dat';
}

function contentOf(plan: InstallerPlan, random: Random, i: number, size: number): Buffer {
  switch (i % 4) {
    case 0:
      return programOf(plan, binary(random, size, 0.35), `${plan.name}, part ${i}`, true);
    case 1:
      return text(random, size);
    case 2:
      return table(random, size);
    default:
      return binary(random, size, 0.8);
  }
}

/** The clean machine before anything is installed. */
export function* systemFiles(): Generator<PayloadFile> {
  const random = seededRandom('clean machine');
  for (let i = 1; i <= 180; i++)
    yield { path: `System/Library/lib${i}.dll`, content: binary(random, 2_000, 0.3) };
  for (let i = 1; i <= 12; i++)
    yield { path: `System/Fonts/font-${i}.ttf`, content: binary(random, 4_000, 0.6) };
  yield { path: 'System/Fonts/cache.idx', content: Buffer.from('fonts 12') };
  yield { path: 'System/Event logs/system.evtx', content: Buffer.from('started') };
  yield { path: 'Users/packager/settings.ini', content: Buffer.from('[desktop]\n') };
}

/** What the machine writes by itself while an installer runs; less when its index and updates are off. */
export function* noiseFiles(
  plan: Pick<InstallerPlan, 'id' | 'name' | 'perUser' | 'logs'>,
  quiet: boolean,
): Generator<PayloadFile> {
  const random = seededRandom(`noise ${plan.id}`);
  for (let i = 1; i <= between(random, 30, 90); i++)
    yield { path: `System/Temp/setup-${i}.tmp`, content: text(random, 300) };
  const loud = !quiet;
  for (let i = 1; loud && i <= between(random, 20, 60); i++)
    yield { path: `System/Update store/part-${i}.bin`, content: text(random, 400) };
  for (let i = 1; loud && i <= between(random, 8, 25); i++)
    yield { path: `System/Search index/page-${i}.idx`, content: text(random, 200) };
  for (let i = 1; i <= 6; i++) yield { path: `System/Prefetch/START-${i}.pf`, content: text(random, 100) };
  yield { path: 'System/Event logs/system.evtx', content: text(random, 2_000) };
  yield { path: `Users/packager/${plan.name} setup.log`, content: text(random, 1_500) };
  if (plan.logs)
    yield { path: `${programFolder(plan.name, plan.perUser)}/first-run.log`, content: text(random, 900) };
  yield { path: 'System/Fonts/cache.idx', content: Buffer.from('fonts 12, looked at again') };
}
