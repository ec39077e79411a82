import type { Command } from 'commander';
import { planNames } from '@vatline/core/pool/names';
import { EXIT_NO, orBadInput, print, printJson, readList, wholeNumber } from '../outcome.ts';

interface Options {
  readonly start: string;
  readonly count: string;
  readonly taken?: string;
  readonly json?: boolean;
}

export function addNames(program: Command): void {
  program
    .command('names')
    .description('the computer names a pattern gives, and any clash')
    .argument('<pattern>')
    .requiredOption('--start <n>')
    .requiredOption('--count <m>')
    .option('--taken <file>', 'names in use, one a line')
    .option('--json')
    .action((pattern: string, options: Options) => {
      const taken = options.taken ? readList(options.taken) : [];
      const request = {
        pattern,
        start: wholeNumber('--start', options.start),
        count: wholeNumber('--count', options.count),
        taken,
      };
      const plan = orBadInput('names', planNames(request));
      if (options.json)
        printJson({
          names: plan.names,
          clash: plan.clash ?? null,
          clashes: plan.clashes,
          overflow: plan.overflow,
        });
      else for (const name of plan.names) print(plan.clashes.includes(name) ? `${name} taken` : name);
      if (plan.overflow) process.stderr.write('the counter overflows: the last number needs more digits\n');
      if (plan.clash !== undefined || plan.overflow) process.exitCode = EXIT_NO;
    });
}
