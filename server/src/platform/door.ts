/**
 * The door of the API: who calls is known to all that a call leads to, what comes in and goes out is
 * checked, and what changed is told to everybody.
 */
import type { Request, Response, Router } from 'express';
import type { z } from 'zod';
import type { Endpoint, RawEndpoint } from '@vatline/contract/endpoint';
import { topicsOf, type Asked } from '@vatline/contract/topics';
import type { Caller } from '@vatline/contract/caller';
import { actingAs } from './acting.ts';
import { sendAnswer, type Answers } from './answers.ts';
import type { Live } from './live.ts';
import { faultsOf, invalid } from './problem.ts';

export interface Call<P, Q, B> {
  readonly params: P;
  readonly query: Q;
  readonly body: B;
  readonly caller: Caller;
  /** Fires when whoever asked is gone before the answer is: long work may end there. */
  readonly gone: AbortSignal;
}

/** A call whose body is a form or whose answer is a file. */
export interface RawCall<P, Q> {
  readonly params: P;
  readonly query: Q;
  readonly caller: Caller;
  readonly request: Request;
  readonly response: Response;
}

export class Door {
  constructor(
    private readonly router: Router,
    private readonly live: Pick<Live, 'changedTopics'>,
    private readonly callers: { readonly caller: Caller },
    private readonly answers: Answers,
  ) {}

  /** Serves an endpoint: its input is checked before the handler sees it, its answer before it leaves. */
  serve<P extends z.ZodType, Q extends z.ZodType, B extends z.ZodType, R extends z.ZodType>(
    endpoint: Endpoint<P, Q, B, R>,
    handler: (call: Call<z.output<P>, z.output<Q>, z.output<B>>) => Promise<z.input<R>> | z.input<R>,
  ): void {
    this.router[endpoint.method](endpoint.path, async (request: Request, response) => {
      const { caller } = this.callers;
      const call = {
        caller,
        params: check(endpoint.params, request.params),
        query: check(endpoint.query, request.query),
        body: check(endpoint.body, request.body ?? {}),
        gone: goneSignal(response),
      };
      const answer = async () => checkedAnswer(endpoint, await actingAs(caller.role, () => handler(call)));
      if (isKept(endpoint, request)) {
        const dependsOn = topicsOf(endpoint.dependsOn, call);
        const key = `${caller.role} ${request.originalUrl}`;
        return sendAnswer(request, response, await this.answers.to({ key, dependsOn }, answer));
      }
      const made = await handled(() => actingAs(caller.role, () => handler(call)), call.gone);
      if (made === CUT_SHORT) return;
      this.tell(endpoint, call, made);
      response.json(checkedAnswer(endpoint, made));
    });
  }

  /** The same where the handler reads a form, or sends a file by itself; what it gives back is JSON. */
  serveRaw<P extends z.ZodType, Q extends z.ZodType, R extends z.ZodType>(
    endpoint: RawEndpoint<P, Q, R>,
    handler: (call: RawCall<z.output<P>, z.output<Q>>) => Promise<z.input<R> | void>,
  ): void {
    this.router[endpoint.method](endpoint.path, async (request: Request, response) => {
      const { caller } = this.callers;
      const call = {
        caller,
        params: check(endpoint.params, request.params),
        query: check(endpoint.query, request.query),
      };
      // A file goes out as it lies there: its length is known, and most are compressed already.
      response.set('cache-control', 'no-transform');
      const answer = await actingAs(caller.role, () => handler({ ...call, request, response }));
      this.tell(endpoint, call, answer);
      if (answer !== undefined) response.json(checkedAnswer(endpoint, answer));
    });
  }

  /** What was changed is so, whether or not the answer reaches the one who asked. */
  private tell({ changes }: Pick<Endpoint, 'changes'>, asked: Asked, answer: unknown): void {
    if (changes.length > 0) this.live.changedTopics(...topicsOf(changes, asked, answer));
  }
}

const CUT_SHORT = Symbol('cut short');

/** What a handler makes, unless it ended because whoever asked is gone: nobody is there to be told. */
async function handled<A>(work: () => Promise<A> | A, gone: AbortSignal): Promise<A | typeof CUT_SHORT> {
  try {
    return await work();
  } catch (error) {
    if (gone.aborted && error instanceof Error && error.name === 'AbortError') return CUT_SHORT;
    throw error;
  }
}

function goneSignal(response: Response): AbortSignal {
  const gone = new AbortController();
  response.once('close', () => {
    if (!response.writableFinished) gone.abort();
  });
  return gone.signal;
}

/** A read says on what it depends; who will not have an answer that was made before says so by HTTP. */
function isKept({ method, dependsOn }: Endpoint, request: Request): boolean {
  return method === 'get' && dependsOn.length > 0 && request.get('cache-control') !== 'no-cache';
}

function checkedAnswer({ method, path, response }: Endpoint, answer: unknown): unknown {
  const checked = response.safeParse(answer);
  if (!checked.success) throw new Error(`${method} ${path} answered wrongly: ${checked.error.message}`);
  return checked.data;
}

/** What a schema makes of a value from outside. Throws a refusal with a fault at each field. */
export function check<T extends z.ZodType>(schema: T, value: unknown): z.output<T> {
  const result = schema.safeParse(value);
  if (!result.success) throw invalid(faultsOf(result.error));
  return result.data;
}
