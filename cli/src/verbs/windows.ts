import type { Command } from 'commander';
import { listWindows } from '@vatline/core/time/windows';
import { closedDays } from '@vatline/core/time/closed-days';
import { formatInstant, parseInstant } from '@vatline/core/time/instant';
import { orBadInput, printJson, readInput, UseError, wholeNumber } from '../outcome.ts';

interface Options {
  readonly rule: string;
  readonly start: string;
  readonly end: string;
  readonly zone: string;
  readonly from: string;
  readonly count: string;
  readonly closed?: string;
}

export function addWindows(program: Command): void {
  program
    .command('windows')
    .description('the next maintenance windows, in UTC')
    .requiredOption('--rule <rrule>')
    .requiredOption('--start <hh:mm>')
    .requiredOption('--end <hh:mm>')
    .requiredOption('--zone <zone>')
    .requiredOption('--from <iso>')
    .requiredOption('--count <n>')
    .option('--closed <ics>', 'an iCalendar file of days without a window')
    .option('--json', 'accepted; the answer is always JSON')
    .action((options: Options) => {
      const from = parseInstant(options.from);
      if (from === undefined)
        throw new UseError(`--from: "${options.from}" is not an instant such as 2027-03-22T08:00:00Z`);
      const closed = options.closed
        ? orBadInput(options.closed, closedDays(readInput(options.closed), options.zone, from))
        : undefined;
      const count = wholeNumber('--count', options.count);
      if (count < 1) throw new UseError('--count: must be at least 1');
      const { rule, start, end, zone } = options;
      const spans = orBadInput(
        'windows',
        listWindows({ rule, start, end, zone, ...(closed ? { closed } : {}) }, from, count),
      );
      printJson(
        spans.map((s) => ({ start: formatInstant(s.start), end: formatInstant(s.end), minutes: s.minutes })),
      );
    });
}
