#!/usr/bin/env node
/** `vatline`: the core from a command line. Every verb is a file under `verbs/`. */
import { readFileSync } from 'node:fs';
import { Command, CommanderError } from 'commander';
import { removeUnfinished } from '@vatline/files/unfinished';
import { fail, UseError } from './outcome.ts';

// Whoever read what we say has seen enough; what was asked for is done all the same.
process.stdout.on('error', (error: NodeJS.ErrnoException) => {
  if (error.code !== 'EPIPE') throw error;
  process.exit(process.exitCode ?? 0);
});
for (const [signal, code] of [
  ['SIGINT', 130],
  ['SIGTERM', 143],
] as const)
  process.on(signal, () => {
    removeUnfinished();
    process.exit(code);
  });

const { version } = JSON.parse(readFileSync(new URL('../package.json', import.meta.url), 'utf8')) as {
  version: string;
};

/** Each verb is loaded when it is asked for: a scan does not wait for the forecast's libraries. */
const container = async () => (await import('./verbs/container.ts')).addContainerVerbs;
const verbs: Record<string, () => Promise<(program: Command) => void>> = {
  scan: async () => (await import('./verbs/scan.ts')).addScan,
  compare: async () => (await import('./verbs/compare.ts')).addCompare,
  pack: container,
  inspect: container,
  unpack: container,
  verify: container,
  names: async () => (await import('./verbs/names.ts')).addNames,
  storage: async () => (await import('./verbs/storage.ts')).addStorage,
  fit: async () => (await import('./verbs/fit.ts')).addFit,
  windows: async () => (await import('./verbs/windows.ts')).addWindows,
  plan: async () => (await import('./verbs/plan.ts')).addPlan,
  forecast: async () => (await import('./verbs/forecast.ts')).addForecast,
};

const program = new Command('vatline')
  .description('Inventories, packages and rollouts of desktop images, computed')
  .version(version)
  // `pack` has a --version of its own.
  .enablePositionalOptions()
  .exitOverride()
  .configureOutput({ writeErr: () => undefined });

const asked = verbs[process.argv[2] ?? ''];
for (const load of asked ? [asked] : new Set(Object.values(verbs))) (await load())(program);
for (const command of program.commands) command.exitOverride().configureOutput({ writeErr: () => undefined });

try {
  await program.parseAsync(process.argv);
} catch (error) {
  if (error instanceof CommanderError) {
    if (error.exitCode === 0) process.exitCode = 0;
    else if (error.code === 'commander.help') {
      process.stderr.write(program.helpInformation());
      process.exitCode = 2;
    } else fail(new UseError(error.message.replace(/^error: /, '')));
  } else fail(error);
}
