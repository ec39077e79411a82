/** Starts the server: reads what the environment says, opens the data, listens, stops gracefully. */
import { rmSync } from 'node:fs';
import { createServer } from 'node:http';
import { fileURLToPath } from 'node:url';
import { pino } from 'pino';
import { openApplication } from './application.ts';
import { readConfig } from './platform/config.ts';

const root = fileURLToPath(new URL('../../', import.meta.url));
const GRACE_MS = 5_000;

async function main(): Promise<void> {
  const config = readConfig(process.env, root);
  const log = pino({ level: config.logLevel, base: null });
  const say = (text: string) => process.stdout.write(`${text}\n`);
  if (process.argv.includes('--fresh')) rmSync(config.dataFolder, { recursive: true, force: true });
  const server = createServer();
  await listen(server, config.host, config.port);
  const application = await openApplication({
    dataFolder: config.dataFolder,
    webFolder: config.webFolder,
    log,
    demo: !process.argv.includes('--empty'),
    ticking: true,
    onProgress: say,
  });
  server.on('request', application.http);
  const address = server.address();
  const port = typeof address === 'object' && address ? address.port : config.port;
  const shown = config.host.includes(':') ? `[${config.host}]` : config.host;
  if (application.resumedJobs > 0) say(`${application.resumedJobs} jobs taken up where they were`);
  say(`Vat Line is at http://${shown}:${port}`);

  let stopping = false;
  const stop = () => {
    if (stopping) return;
    stopping = true;
    say('Stopping');
    setTimeout(() => process.exit(1), GRACE_MS).unref();
    server.close();
    server.closeIdleConnections();
    void application.close().then(() => process.exit(0));
  };
  process.on('SIGINT', stop).on('SIGTERM', stop);
}

/** Takes the port first, so that a busy one is known before any data is touched. */
function listen(server: ReturnType<typeof createServer>, host: string, port: number): Promise<void> {
  return new Promise((done, fail) => {
    server.once('error', (error: NodeJS.ErrnoException) => {
      if (error.code !== 'EADDRINUSE') return fail(error);
      fail(
        new Error(
          `port ${port} on ${host} is in use by another program; choose another one with PORT, as in PORT=${port + 1} npm start`,
        ),
      );
    });
    server.listen(port, host, done);
  });
}

main().catch((error: unknown) => {
  process.stderr.write(`Vat Line cannot start: ${error instanceof Error ? error.message : String(error)}\n`);
  process.exit(1);
});
