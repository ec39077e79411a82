/** The HTTP platform around the API: who may come in, problems, logging, the built interface. */
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import express, { type ErrorRequestHandler, type Express, type Router } from 'express';
import compression from 'compression';
import staticGzip from 'express-static-gzip';
import helmet from 'helmet';
import type { Logger } from 'pino';
import { ownRequestsOnly } from './own-requests.ts';
import { troubleRefusal, type Trouble } from './trouble.ts';
import { notFound, problemOf } from './problem.ts';

const BODY_LIMIT = '2mb';
/** Answers below that fit a packet as they are. */
const SMALL_BYTES = 1_000;

/** The live stream must not wait for more to compress, and files are compressed already. */
function isJson(_request: express.Request, response: express.Response): boolean {
  return /^application\/(problem\+)?json/.test(String(response.getHeader('content-type')));
}

/** The application around the routers. */
export function createHttp(
  { log, trouble }: { readonly log: Logger; readonly trouble: Trouble },
  api: Router,
  webFolder: string,
  hosts: readonly string[],
): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          'default-src': ["'self'"],
          'style-src': ["'self'", "'unsafe-inline'"],
          'img-src': ["'self'", 'data:'],
          'worker-src': ["'self'", 'blob:'],
          'upgrade-insecure-requests': null,
        },
      },
      strictTransportSecurity: false,
    }),
  );
  app.use(requestLog(log));
  app.use(ownRequestsOnly(hosts));
  app.use(
    '/api',
    compression({ threshold: SMALL_BYTES, filter: isJson }),
    express.json({ limit: BODY_LIMIT }),
    api,
    () => {
      throw notFound('such address in the API');
    },
  );
  if (existsSync(webFolder)) {
    app.use(
      '/assets',
      staticGzip(join(webFolder, 'assets'), {
        enableBrotli: true,
        orderPreference: ['br', 'gz'],
        serveStatic: { immutable: true, maxAge: '1y' },
      }),
    );
    app.use(express.static(webFolder, { index: false }));
    app.get('/{*path}', (_request, response) => response.sendFile(join(webFolder, 'index.html')));
  }
  app.use(problems(log, trouble));
  return app;
}

function requestLog(log: Logger) {
  return (request: express.Request, response: express.Response, next: express.NextFunction) => {
    const started = performance.now();
    response.on('finish', () => {
      const milliseconds = Math.round(performance.now() - started);
      const level = response.statusCode >= 500 ? 'error' : 'debug';
      log[level](
        { method: request.method, path: request.originalUrl, status: response.statusCode, milliseconds },
        'request',
      );
    });
    next();
  };
}

function problems(log: Logger, trouble: Trouble): ErrorRequestHandler {
  return (error, request, response, next) => {
    if (response.headersSent) return next(error);
    // What is still to come of the request would be read to its end for nothing.
    if (!request.complete) response.set('connection', 'close');
    const sentence = trouble.notice(error) ? trouble.current : null;
    let problem = problemOf(sentence === null ? error : troubleRefusal(sentence));
    if (!problem) {
      log.error({ err: error as Error, path: request.originalUrl }, 'request failed');
      problem = {
        type: 'about:blank',
        title: 'Something broke',
        status: 500,
        detail: 'The server failed on this request; its log says where',
        faults: [],
      };
    }
    response.status(problem.status).type('application/problem+json').send(JSON.stringify(problem));
  };
}
