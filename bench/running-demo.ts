/** The demo in this process, on a folder and a port of its own. */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join, resolve } from 'node:path';
import { pino } from 'pino';
import { openApplication, type Application } from '@vatline/server/application';

/** Runs `use` against the demo and clears everything away. The clock stands still until it is moved. */
export async function withDemo<T>(use: (app: Application, address: string) => Promise<T>): Promise<T> {
  const folder = mkdtempSync(join(tmpdir(), 'vatline-bench-demo-'));
  const app = await openApplication({
    dataFolder: folder,
    webFolder: resolve(import.meta.dirname, '../web/dist'),
    log: pino({ level: 'silent' }),
    demo: true,
    ticking: false,
  });
  const server = app.http.listen(0, '127.0.0.1');
  await new Promise((ready) => server.once('listening', ready));
  const bound = server.address();
  try {
    return await use(app, `http://127.0.0.1:${typeof bound === 'object' && bound ? bound.port : 0}`);
  } finally {
    server.closeAllConnections();
    server.close();
    await app.close();
    rmSync(folder, { recursive: true, force: true });
  }
}
