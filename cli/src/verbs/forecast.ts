import type { Command } from 'commander';
import { planFileSchema, planOf } from '@vatline/contract/plan-file';
import { forecast, type Forecast, type Percentiles } from '@vatline/core/rollout/forecast';
import { suggestions } from '@vatline/core/rollout/suggestions';
import { formatInstant, type Instant } from '@vatline/core/time/instant';
import { EXIT_NO, orBadInput, print, printJson } from '../outcome.ts';
import { readDocument } from '../read-document.ts';

export function addForecast(program: Command): void {
  program
    .command('forecast')
    .description('when a rollout will be done, and with how many seats left')
    .argument('<plan>', 'a plan file, JSON')
    .option('--json')
    .action((file: string, options: { json?: boolean }) => {
      const plan = planOf(readDocument(file, planFileSchema));
      const answer = orBadInput(file, forecast(plan));
      if (options.json) {
        const others = suggestions(plan, answer).map((s) => ({ ...s, finish: iso(s.finish) }));
        printJson({ ...asJson(answer), suggestions: others });
      } else printAsText(answer);
      if (answer.finish.p90 === null) process.exitCode = EXIT_NO;
    });
}

function iso(instant: Instant | null): string | null {
  return instant === null ? null : formatInstant(Math.round(instant));
}

function asJson(answer: Forecast): Record<string, unknown> {
  const finish: Percentiles<string | null> = {
    p10: iso(answer.finish.p10),
    p50: iso(answer.finish.p50),
    p90: iso(answer.finish.p90),
  };
  const { windowsUsed, finishesInFirstWindow, minSeatsLeft, binding } = answer;
  const hosts = answer.hosts.map(({ index, name, start, finish: end }) => ({
    index,
    name,
    start: iso(start),
    finish: iso(end),
  }));
  return { finish, windowsUsed, finishesInFirstWindow, minSeatsLeft, binding, hosts };
}

function printAsText(answer: Forecast): void {
  const { finish, windowsUsed } = answer;
  print(finish.p90 === null ? 'does not finish in 9 of 10 runs' : `done by ${iso(finish.p90)} (9 in 10)`);
  print(
    `median ${iso(finish.p50) ?? 'never'}, ${windowsUsed.p50} ${windowsUsed.p50 === 1 ? 'window' : 'windows'}`,
  );
  print(`finishes in the first window: ${Math.round(answer.finishesInFirstWindow * 100)} %`);
  print(`fewest seats left: ${answer.minSeatsLeft.p10}`);
  for (const row of answer.binding) print(`held back by ${row.constraint}: ${row.minutes} min`);
}
