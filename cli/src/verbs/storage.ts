import type { Command } from 'commander';
import { storageFileSchema, storageQuestionOf } from '@vatline/contract/storage-file';
import { cloneKinds, cloneStorage } from '@vatline/core/pool/clone-storage';
import { chanceOfFilling, drawGrowth } from '@vatline/core/pool/storage-risk';
import { printJson } from '../outcome.ts';
import { readDocument } from '../read-document.ts';

export function addStorage(program: Command): void {
  program
    .command('storage')
    .description('storage of full clones, linked clones and a streamed image, and the chance that it fills')
    .argument('<input>', 'a storage file, JSON or YAML')
    .option('--json', 'accepted; the answer is always JSON')
    .action((file: string) => {
      const { input, growth, runs, seed } = storageQuestionOf(readDocument(file, storageFileSchema));
      const { hosts, datastores } = input;
      const draws = drawGrowth({ hosts, datastores: datastores.length, growth, runs, seed });
      const answers = cloneKinds.map((kind) => [
        kind,
        { ...cloneStorage(kind, input), chanceOfFilling: chanceOfFilling(kind, input, draws) },
      ]);
      printJson(Object.fromEntries(answers));
    });
}
