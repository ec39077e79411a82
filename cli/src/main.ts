#!/usr/bin/env node
/** `vatline`: the core from a command line. Every verb is a file under `verbs/`. */
import { Command, CommanderError } from 'commander';
import { fail, UseError } from './outcome.ts';
import { addCompare } from './verbs/compare.ts';
import { addContainerVerbs } from './verbs/container.ts';
import { addForecast } from './verbs/forecast.ts';
import { addNames } from './verbs/names.ts';
import { addScan } from './verbs/scan.ts';
import { addWindows } from './verbs/windows.ts';

const program = new Command('vatline')
  .description('Inventories, packages and rollouts of desktop images, computed')
  .exitOverride()
  .configureOutput({ writeErr: () => undefined });

for (const add of [addScan, addCompare, addContainerVerbs, addNames, addWindows, addForecast]) add(program);
for (const command of program.commands) command.exitOverride().configureOutput({ writeErr: () => undefined });

try {
  await program.parseAsync(process.argv);
} catch (error) {
  if (error instanceof CommanderError) {
    if (['commander.helpDisplayed', 'commander.help'].includes(error.code)) {
      if (error.code === 'commander.help') process.stderr.write(program.helpInformation());
      process.exitCode = error.code === 'commander.help' ? 2 : 0;
    } else fail(new UseError(error.message.replace(/^error: /, '')));
  } else fail(error);
}
