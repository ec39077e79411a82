import type { Command } from 'commander';
import { planFileSchema, planOf } from '@vatline/contract/plan-file';
import { forecast, type Forecast } from '@vatline/core/rollout/forecast/forecast';
import { planDifferences, type PlanDifference } from '@vatline/core/rollout/plan-differences';
import { EXIT_NO, orBadInput, print, printJson } from '../outcome.ts';
import { readDocument } from '../read-document.ts';
import { asJson, iso } from './forecast-answer.ts';

export function addPlan(program: Command): void {
  const plan = program.command('plan').description('plans of rollouts');
  plan
    .command('compare')
    .description('two plans side by side, each with its forecast')
    .argument('<a>', 'a plan file')
    .argument('<b>', 'another one')
    .option('--json')
    .action((a: string, b: string, options: { json?: boolean }) => {
      const [before, after] = [a, b].map((file) => planOf(readDocument(file, planFileSchema)));
      if (!before || !after) return;
      // The seed of the first for both, so that chance makes no difference.
      const answers = {
        a: orBadInput(a, forecast(before)),
        b: orBadInput(b, forecast({ ...after, seed: before.seed })),
      };
      const differences = planDifferences(before, after);
      if (options.json) printJson({ differences, a: asJson(answers.a), b: asJson(answers.b) });
      else printAsText(differences, answers);
      if (answers.a.finish.p90 === null || answers.b.finish.p90 === null) process.exitCode = EXIT_NO;
    });
}

function printAsText(differences: readonly PlanDifference[], { a, b }: { a: Forecast; b: Forecast }): void {
  if (differences.length === 0) print('they say the same');
  for (const { field, before, after } of differences)
    print(`${field}: ${before ?? 'nothing'} → ${after ?? 'nothing'}`);
  const rows: [string, (answer: Forecast) => string][] = [
    ['done (9 in 10)', ({ finish }) => iso(finish.p90) ?? 'never'],
    ['done (median)', ({ finish }) => iso(finish.p50) ?? 'never'],
    ['windows', ({ windowsUsed }) => String(windowsUsed.p50)],
    ['fewest seats left', ({ minSeatsLeft }) => String(minSeatsLeft.p10)],
  ];
  for (const [what, of] of rows) print(`${what}: ${of(a)} → ${of(b)}`);
}
