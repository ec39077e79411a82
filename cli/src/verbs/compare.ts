import type { Command } from 'commander';
import { readRuleFile } from '@vatline/contract/rule-file';
import { changedFields, isTimeOnly, movedChange } from '@vatline/core/inventory/compare';
import { entryName } from '@vatline/core/inventory/entry';
import { countChanges, dropNoise, type CaptureComparison, type NoiseRule } from '@vatline/core/package/noise';
import { refuseAll, type Result } from '@vatline/core/result';
import { compareInventoryFiles } from '@vatline/files/inventory-file';
import { orBadInput, print, readInput } from '../outcome.ts';

export function addCompare(program: Command): void {
  program
    .command('compare')
    .description('what lies between two inventories')
    .argument('<before>')
    .argument('<after>')
    .option('--rules <file>', 'a rule file with noise rules of your own')
    .option('--times', 'list what changed in its time only as well')
    .option('--json', 'print the whole answer as JSON')
    .action((before: string, after: string, options: { rules?: string; times?: boolean; json?: boolean }) => {
      const own = options.rules ? orBadInput(options.rules, readRules(readInput(options.rules))) : [];
      const answer = orBadInput('rules', dropNoise(compareInventoryFiles(before, after), own));
      if (options.json) printAsJson(answer);
      else printAsText(answer, options.times ?? false);
    });
}

/** A rule file; of each fault the line and column are told. */
function readRules(text: string): Result<NoiseRule[]> {
  const read = readRuleFile(text);
  if (read.ok) return read;
  return refuseAll(
    read.error.map(({ line, column, path, message }) => ({
      path: `line ${line}, column ${column}`,
      message: `${path} ${message}`.trim(),
    })),
  );
}

/** Written piece by piece: a million entries do not fit one string. */
function printAsJson(answer: CaptureComparison): void {
  const { stdout } = process;
  stdout.write(`{"counts":${JSON.stringify({ ...countChanges(answer), same: answer.same })}`);
  const list = (name: string, rows: readonly unknown[]) => {
    stdout.write(`,${JSON.stringify(name)}:[`);
    for (let i = 0; i < rows.length; i += 5_000) {
      const part = rows.slice(i, i + 5_000).map((row) => JSON.stringify(row));
      stdout.write((i > 0 ? ',' : '') + part.join(','));
    }
    stdout.write(']');
  };
  list('added', answer.added);
  list('removed', answer.removed);
  list('changed', answer.changed);
  list(
    'moved',
    answer.moved.map(({ from, to }) => ({ from: from.path, to: to.path, fields: changedFields(from, to) })),
  );
  list('dropped', answer.dropped);
  stdout.write('}\n');
}

function printAsText(answer: CaptureComparison, times: boolean): void {
  const changed = times ? answer.changed : answer.changed.filter((row) => !isTimeOnly(row));
  for (const entry of answer.added) print(`+ ${entry.kind} ${entryName(entry)}`);
  for (const entry of answer.removed) print(`- ${entry.kind} ${entryName(entry)}`);
  for (const c of changed) print(`~ ${c.after.kind} ${entryName(c.after)} (${c.fields.join(', ')})`);
  for (const move of answer.moved) {
    const change = movedChange(move);
    print(`> file ${move.from.path} -> ${move.to.path}${change && ` (${change})`}`);
  }
  const n = countChanges(answer);
  const left = answer.changed.length - changed.length;
  process.stderr.write(
    `${n.added} added, ${n.removed} removed, ${n.changed} changed, ${n.moved} moved; ${n.dropped} dropped as noise` +
      `${left > 0 ? `; ${left} changed in their time only, which --times lists` : ''}\n`,
  );
}
