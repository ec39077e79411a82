/** The HTTP platform: checks at the door both ways, problems, logging, the built interface. */
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import express, { type ErrorRequestHandler, type Express, type Request, type Router } from 'express';
import helmet from 'helmet';
import type { Logger } from 'pino';
import type { z } from 'zod';
import type { Endpoint } from '@vatline/contract/endpoint';
import { ownRequestsOnly } from './own-requests.ts';
import { troubleRefusal, type Trouble } from './trouble.ts';
import { faultsOf, invalid, notFound, problemOf } from './problem.ts';

export interface Call<P, Q, B> {
  readonly params: P;
  readonly query: Q;
  readonly body: B;
}

/** Serves an endpoint: its input is checked before the handler sees it, its answer before it leaves. */
export function serve<P extends z.ZodType, Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType>(
  router: Router,
  endpoint: Endpoint<P, Q, B, R>,
  handler: (call: Call<z.output<P>, z.output<Q>, z.output<B>>) => Promise<z.input<R>> | z.input<R>,
): void {
  router[endpoint.method](endpoint.path, async (request: Request, response) => {
    const call = {
      params: check(endpoint.params, request.params),
      query: check(endpoint.query, request.query),
      body: check(endpoint.body, request.body ?? {}),
    };
    const answer = await handler(call);
    const checked = endpoint.response.safeParse(answer);
    if (!checked.success)
      throw new Error(`${endpoint.method} ${endpoint.path} answered wrongly: ${checked.error.message}`);
    response.json(checked.data);
  });
}

/** What a schema makes of a value from outside. Throws a refusal with a fault at each field. */
export function check<T extends z.ZodType>(schema: T, value: unknown): z.output<T> {
  const result = schema.safeParse(value);
  if (!result.success) throw invalid(faultsOf(result.error));
  return result.data;
}

const BODY_LIMIT = '2mb';

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
  app.use('/api', express.json({ limit: BODY_LIMIT }), api, () => {
    throw notFound('such address in the API');
  });
  if (existsSync(webFolder)) {
    app.use('/assets', express.static(join(webFolder, 'assets'), { immutable: true, maxAge: '1y' }));
    app.use(express.static(webFolder, { index: false }));
    app.get('/{*path}', (_request, response) => response.sendFile(join(webFolder, 'index.html')));
  }
  app.use(problems(log, trouble));
  return app;
}

function requestLog(log: Logger) {
  return (request: Request, response: express.Response, next: express.NextFunction) => {
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
