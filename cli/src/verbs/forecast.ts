import type { Command } from 'commander';
import { planFileSchema, planOf } from '@vatline/contract/plan-file';
import { forecast, type Forecast, type RingForecast } from '@vatline/core/rollout/forecast/forecast';
import { suggestions } from '@vatline/core/rollout/suggestions';
import { EXIT_NO, orBadInput, print, printJson } from '../outcome.ts';
import { readDocument } from '../read-document.ts';
import { asJson, iso } from './forecast-answer.ts';

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

function printAsText(answer: Forecast): void {
  const { finish, windowsUsed } = answer;
  print(finish.p90 === null ? 'does not finish in 9 of 10 runs' : `done by ${iso(finish.p90)} (9 in 10)`);
  print(
    `median ${iso(finish.p50) ?? 'never'}, ${windowsUsed.p50} ${windowsUsed.p50 === 1 ? 'window' : 'windows'}`,
  );
  print(`finishes in the first window: ${Math.round(answer.finishesInFirstWindow * 100)} %`);
  print(`fewest seats left: ${answer.minSeatsLeft.p10}`);
  if (answer.rings.length > 1) for (const ring of answer.rings) print(ringInWords(ring));
  for (const row of answer.binding) print(`held back by ${row.constraint}: ${row.minutes} min`);
}

function ringInWords({ name, opens, finish }: RingForecast): string {
  const opened = opens.p90 === null ? 'may never open' : `opens by ${iso(opens.p90)}`;
  return `${name}: ${opened}, ${finish.p90 === null ? 'may never be done' : `done by ${iso(finish.p90)}`}`;
}
