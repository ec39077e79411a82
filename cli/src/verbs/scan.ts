import { resolve } from 'node:path';
import type { Command } from 'commander';
import { compareEntries, type Entry } from '@vatline/core/inventory/entry';
import { inventoryHeader } from '@vatline/core/inventory/text';
import { readRegistryFile } from '@vatline/files/registry-file';
import { saveInventory } from '@vatline/files/inventory-file';
import { scanTree } from '@vatline/files/scan';
import { EXIT_SKIPPED, orBadInput, print, printJson } from '../outcome.ts';

interface Options {
  readonly out?: string;
  readonly registry: string[];
  readonly json?: boolean;
}

export function addScan(program: Command): void {
  program
    .command('scan')
    .description('take an inventory of a folder tree')
    .argument('<dir>')
    .option('--out <file>', 'write it there instead of to standard output')
    .option(
      '--registry <file>',
      'add a registry text export; may be given again',
      (f, all: string[]) => [...all, f],
      [],
    )
    .option('--json', 'print a summary as JSON when --out is given')
    .action(run);
}

async function run(dir: string, options: Options): Promise<void> {
  const registry = options.registry.flatMap((file) => orBadInput(file, readRegistryFile(file)));
  const scan = await scanTree(dir);
  const entries: readonly Entry[] =
    registry.length === 0 ? scan.entries : [...scan.entries, ...registry].sort(compareEntries);
  const caseSensitive = process.platform !== 'win32' && process.platform !== 'darwin';
  const header = inventoryHeader(resolve(dir), Date.now(), caseSensitive);
  if (options.out) {
    saveInventory(options.out, header, entries);
    const summary = { entries: entries.length, unreadable: scan.unreadable };
    if (options.json) printJson(summary);
    else process.stderr.write(`${entries.length.toLocaleString('en-GB')} entries to ${options.out}\n`);
  } else {
    printJson(header);
    for (let i = 0; i < entries.length; i += 5_000) {
      print(
        entries
          .slice(i, i + 5_000)
          .map((entry) => JSON.stringify(entry))
          .join('\n'),
      );
    }
  }
  for (const { path, reason } of scan.unreadable) process.stderr.write(`not read: ${path}: ${reason}\n`);
  if (scan.unreadable.length > 0) process.exitCode = EXIT_SKIPPED;
}
