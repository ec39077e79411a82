/** `pack`, `inspect`, `unpack`, `verify`. */
import type { Command } from 'commander';
import { containerFormats, type ContainerFormat } from '@vatline/files/container-format';
import { folderTree } from '@vatline/files/folder-tree';
import { inspectContainer } from '@vatline/files/inspect-container';
import { packContainer } from '@vatline/files/pack-container';
import { unpackContainer } from '@vatline/files/unpack-container';
import { verifyContainer } from '@vatline/files/verify-container';
import { InputError } from '@vatline/files/input-error';
import { EXIT_NO, print, printJson, readInput, UseError, wholeNumber } from '../outcome.ts';

interface PackOptions {
  readonly name: string;
  readonly version: string;
  readonly publisher?: string;
  readonly format: string;
  readonly out: string;
  readonly only?: string;
  readonly epoch?: string;
  readonly json?: boolean;
}

export function addContainerVerbs(program: Command): void {
  program
    .command('pack')
    .description('build a container from a folder tree')
    .argument('<dir>')
    .requiredOption('--name <name>')
    .requiredOption('--version <version>')
    .option('--publisher <publisher>')
    .requiredOption('--format <format>', containerFormats.join(', '))
    .requiredOption('--out <path>')
    .option('--only <list>', 'a compare result or a list of paths; nothing else is packed')
    .option('--epoch <seconds>', 'date of every entry, in seconds since 1970')
    .option('--json', 'accepted; the answer is always JSON')
    .action(pack);
  program
    .command('inspect')
    .description('format, label, manifest and entries of a container')
    .argument('<path>')
    .option('--json')
    .action(inspect);
  program
    .command('unpack')
    .description('write the tree of a container to a new folder')
    .argument('<path>')
    .requiredOption('--out <dir>')
    .option('--json')
    .action(async (path: string, options: { out: string; json?: boolean }) => {
      const done = await unpackContainer(path, options.out);
      if (options.json) printJson(done);
      else
        process.stderr.write(
          `${done.files} files, ${done.bytes.toLocaleString('en-GB')} bytes to ${options.out}\n`,
        );
    });
  program
    .command('verify')
    .description('check the structure and every digest of a container')
    .argument('<path>')
    .option('--json')
    .action(async (path: string, options: { json?: boolean }) => {
      const { findings } = await verifyContainer(path);
      const holds = findings.every((finding) => finding.holds);
      if (options.json) printJson({ holds, findings });
      else for (const finding of findings) print(`${finding.holds ? 'holds' : 'FAILS'} ${finding.what}`);
      if (!holds) process.exitCode = EXIT_NO;
    });
}

async function pack(dir: string, options: PackOptions): Promise<void> {
  const format = formatNamed(options.format);
  const started = performance.now();
  const packed = await packContainer({
    tree: folderTree(dir, options.only ? readOnly(options.only) : undefined),
    format,
    out: options.out,
    manifest: {
      name: options.name,
      version: options.version,
      publisher: options.publisher ?? '',
      entryPoints: [],
    },
    ...(options.epoch ? { epoch: wholeNumber('--epoch', options.epoch) } : {}),
  });
  printJson({ ...packed, seconds: Math.round(performance.now() - started) / 1000 });
}

function formatNamed(name: string): ContainerFormat {
  const format = containerFormats.find((known) => known === name);
  if (!format) throw new UseError(`--format: "${name}" cannot be built; ${containerFormats.join(', ')} can`);
  return format;
}

/** The paths of a compare result (what was added, changed, or moved to), or one path a line. */
function readOnly(file: string): Set<string> {
  const text = readInput(file);
  if (!text.trimStart().startsWith('{')) return new Set(text.split(/\r?\n/).filter((line) => line !== ''));
  let value: CompareResult;
  try {
    value = JSON.parse(text) as CompareResult;
  } catch {
    throw InputError.of(file, 'is neither a compare result in JSON nor a list of paths');
  }
  if (!Array.isArray(value.added) || !Array.isArray(value.changed))
    throw InputError.of(file, 'is not a compare result');
  const entries = [...value.added, ...value.changed.map((row) => row.after)];
  const paths = entries.filter((e) => ['file', 'link', 'folder'].includes(e.kind)).map((e) => e.path);
  return new Set([...paths, ...(value.moved ?? []).map((move) => move.to)]);
}

interface CompareResult {
  readonly added?: { kind: string; path: string }[];
  readonly changed?: { after: { kind: string; path: string } }[];
  readonly moved?: { to: string }[];
}

async function inspect(path: string, options: { json?: boolean }): Promise<void> {
  const found = await inspectContainer(path);
  if (options.json) return printJson(found);
  print(
    `format ${found.format}\nlabel ${found.label}\nname ${found.manifest.name}\nversion ${found.manifest.version}`,
  );
  if (found.manifest.publisher) print(`publisher ${found.manifest.publisher}`);
  for (const entry of found.entries) {
    print(
      `${entry.kind.padEnd(6)} ${String(entry.size).padStart(12)} ${entry.digest.padEnd(64)} ${entry.path}`,
    );
  }
}
