import { benchTenThousand } from './ten-thousand.ts';
const what = process.argv[2] ?? '';
await benchTenThousand(what);
