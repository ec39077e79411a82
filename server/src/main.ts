/** Starts the server: reads what the environment says, takes port and data, listens, stops gracefully. */
import { createServer, type RequestListener } from 'node:http';
import { fileURLToPath } from 'node:url';
import { parseArgs } from 'node:util';
import { pino, type Logger } from 'pino';
import { openApplication } from './application.ts';
import { readConfig } from './platform/config.ts';
import { DataFolder } from './platform/data-folder.ts';
import { namesOf } from './platform/own-requests.ts';
import { whileStarting } from './platform/starting.ts';

const root = fileURLToPath(new URL('../../', import.meta.url));
const GRACE_MS = 5_000;
/** The largest upload, 8 GB, over a line of 20 Mbit/s. */
const LONGEST_REQUEST_MS = 3_600_000;
/** Nothing at all came or went: the other side is gone. The live stream beats every 25 s. */
const LONGEST_SILENCE_MS = 120_000;

const say = (text: string) => process.stdout.write(`${text}\n`);

async function main(): Promise<void> {
  const config = readConfig(process.env, root);
  const { values: asked } = parseArgs({
    options: { fresh: { type: 'boolean' }, empty: { type: 'boolean' } },
  });
  const log = pino({ level: config.logLevel, base: null });
  outliveMistakes(log);
  let doing = 'opening its data';
  let answer: RequestListener = whileStarting(() => doing);
  const server = createServer((request, response) => answer(request, response));
  server.requestTimeout = LONGEST_REQUEST_MS;
  server.timeout = LONGEST_SILENCE_MS;
  await listen(server, config.host, config.port);
  // Port and lock first: what is deleted must not be in use.
  const folder = DataFolder.claim(config.dataFolder);
  if (asked.fresh) {
    const left = folder.clear();
    if (left.length > 0) say(`Not made by Vat Line and left in ${folder.path}: ${left.join(', ')}`);
  }
  const application = await openApplication({
    dataFolder: config.dataFolder,
    webFolder: config.webFolder,
    hosts: [...namesOf(config.host), ...config.hosts],
    log,
    demo: !asked.empty,
    ticking: true,
    onProgress: (text) => {
      doing = text;
      say(text);
    },
  });
  answer = application.http;
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
    application
      .close()
      .then(() => folder.release())
      .then(
        () => process.exit(0),
        (error: unknown) => {
          log.error({ err: error as Error }, 'stopping failed');
          process.exit(1);
        },
      );
  };
  process.on('SIGINT', stop).on('SIGTERM', stop);
}

/**
 * A promise that nobody waited for is a mistake of ours, but no reason to end for everybody; an
 * exception that nobody caught may have left anything half done, so the process says what it died
 * of, and everything is taken up at the next start.
 */
function outliveMistakes(log: Logger): void {
  process.on('unhandledRejection', (error) => {
    log.error({ err: error as Error }, 'a promise failed that nobody waited for');
  });
  process.on('uncaughtException', (error) => {
    log.fatal({ err: error }, 'ending because of an exception that nobody caught');
    process.stderr.write(`Vat Line ended: ${error.message}\n`);
    process.exit(1);
  });
  // Whoever read what we say is gone; the server is not for them alone.
  for (const stream of [process.stdout, process.stderr])
    stream.on('error', (error: NodeJS.ErrnoException) => {
      if (error.code !== 'EPIPE') throw error;
    });
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
