/** `npm run chaos -- [KILLS] [SEED]`: a night with kills on the demo; prints what came of it. */
import { chaos } from '../server/test/chaos.ts';

const [kills = '30', seed = 'a long night'] = process.argv.slice(2);
const figures = await chaos(Number(kills), seed);
process.stdout.write(`${JSON.stringify(figures, null, 2)}\n`);
process.exitCode = figures.wrong.length === 0 ? 0 : 1;
