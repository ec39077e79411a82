import type { Command } from 'commander';
import { fitEstateSchema, fitPoolSchema, fitQuestion } from '@vatline/contract/fit-file';
import { fitHosts } from '@vatline/core/pool/fit';
import { EXIT_NO, orBadInput, printJson } from '../outcome.ts';
import { readDocument } from '../read-document.ts';

export function addFit(program: Command): void {
  program
    .command('fit')
    .description('whether a pool fits an estate, the largest that does, and what gives out first')
    .argument('<pool>', 'the pool that is wanted, JSON or YAML')
    .requiredOption('--estate <file>', 'what there is, JSON or YAML')
    .option('--json', 'accepted; the answer is always JSON')
    .action((file: string, options: { estate: string }) => {
      const pool = readDocument(file, fitPoolSchema);
      const estate = readDocument(options.estate, fitEstateSchema);
      const { request, site } = orBadInput(file, fitQuestion(pool, estate));
      const { rows, ...answer } = fitHosts(request, site);
      printJson({
        ...answer,
        rows: rows.map(({ what, needed, there, after }) => ({ what, needed, there, after })),
      });
      if (!answer.fits) process.exitCode = EXIT_NO;
    });
}
