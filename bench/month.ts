/** `npm run chaos -- month [KILLS] [SEED]`: a month of the demo with kills; prints what came of it. */
import { month } from '../server/test/month.ts';

const [kills = '10', seed = 'a month'] = process.argv.slice(2);
const figures = await month(30, Number(kills), seed);
process.stdout.write(`${JSON.stringify(figures, null, 2)}\n`);
process.exitCode = figures.wrong.length === 0 ? 0 : 1;
