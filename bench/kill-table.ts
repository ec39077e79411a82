/**
 * `npm run chaos -- table [WORK] [FIRST] [EVERY]`: kills after every single change that making a pool,
 * building and cutting a version, packaging and rolling out make to the databases; prints what was not as it should be.
 */
import { killedWorks, killTable } from '../server/test/kill-table.ts';

const [work = '', first = '1', every = '1'] = process.argv.slice(2);
let wrong = 0;
for (const one of killedWorks.filter((known) => work === '' || known === work)) {
  const table = await killTable(one, {
    first: Number(first),
    every: Number(every),
    tell: (point, found) => process.stderr.write(`${one} ${point}: ${found.join('; ') || 'all is well'}\n`),
  });
  wrong += Object.keys(table.wrong).length;
  process.stdout.write(`${JSON.stringify({ ...table, points: table.points.length })}\n`);
}
process.exitCode = wrong === 0 ? 0 : 1;
