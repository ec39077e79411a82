/** What an endpoint of the API is: enough for the server to check, the web to call, and OpenAPI to tell. */
import { z } from 'zod';
import type { Topic } from './topics.ts';

export type Method = 'get' | 'post' | 'put' | 'patch' | 'delete';

export interface Endpoint<
  P extends z.ZodType = z.ZodType,
  Q extends z.ZodType = z.ZodType,
  B extends z.ZodType = z.ZodType,
  R extends z.ZodType = z.ZodType,
> {
  readonly method: Method;
  /** With `:name` for parameters, below `/api/v1`. */
  readonly path: string;
  readonly summary: string;
  readonly params: P;
  readonly query: Q;
  readonly body: B;
  readonly response: R;
  /** A read: the topics whose news make its answer another one. Templates as of `topicsOf`. */
  readonly dependsOn: readonly Topic[];
  /** A change: the topics that everybody is told of when it has succeeded. */
  readonly changes: readonly Topic[];
}

const nothing = z.strictObject({});
type Nothing = typeof nothing;

/** Defines an endpoint; parts left out take nothing. */
export function endpoint<
  R extends z.ZodType,
  P extends z.ZodType = Nothing,
  Q extends z.ZodType = Nothing,
  B extends z.ZodType = Nothing,
>(definition: {
  method: Method;
  path: string;
  summary: string;
  params?: P;
  query?: Q;
  body?: B;
  response: R;
  dependsOn?: readonly Topic[];
  changes?: readonly Topic[];
}): Endpoint<P, Q, B, R> {
  return {
    params: nothing as unknown as P,
    query: nothing as unknown as Q,
    body: nothing as unknown as B,
    dependsOn: [],
    changes: [],
    ...definition,
  };
}

/** An endpoint whose body is a form, or whose answer is a file: its address is checked all the same. */
export interface RawEndpoint<
  P extends z.ZodType = z.ZodType,
  Q extends z.ZodType = z.ZodType,
  R extends z.ZodType = z.ZodType,
> extends Endpoint<P, Q, Nothing, R> {
  readonly takes: 'nothing' | 'form';
  /** Media type of the answer. */
  readonly gives: string;
}

/** Defines one; what it answers is checked where it is JSON. */
export function rawEndpoint<
  P extends z.ZodType = Nothing,
  Q extends z.ZodType = Nothing,
  R extends z.ZodType = z.ZodUnknown,
>(definition: {
  method: 'get' | 'post';
  path: string;
  summary: string;
  params?: P;
  query?: Q;
  response?: R;
  takes?: RawEndpoint['takes'];
  gives: string;
  changes?: readonly Topic[];
}): RawEndpoint<P, Q, R> {
  return {
    params: nothing as unknown as P,
    query: nothing as unknown as Q,
    body: nothing,
    response: z.unknown() as unknown as R,
    takes: 'nothing',
    dependsOn: [],
    changes: [],
    ...definition,
  };
}

export const JSON_TYPE = 'application/json';

/** The revision that a change was made from; 0 for something new. */
export const basedOn = z.number().int().min(0).max(1e9);
/** What a change was kept as. */
export const keptAs = z.strictObject({ revision: z.number() });

/*
 * Everything that comes from outside has a bound: what is larger is not read further, since a list
 * of 40,000 or a number of 1e308 once kept everybody else waiting. `test/bounds.test.ts` holds them.
 */

/** What we call things by: made here, some twenty characters long. */
export const id = z.string().max(100, 'is no id');
/** An id that must be given; `what` is what is to be chosen, with its article. */
export const chosen = (what: string) => z.string().min(1, `choose ${what}`).max(100, `is no id of ${what}`);
export const idParams = z.strictObject({ id });
/** Instants travel as UTC milliseconds, sizes as bytes, shares as fractions. The calendar ends at both. */
export const instant = z.number().min(-8.64e15).max(8.64e15);
/** Up to 9 PB, the last size that a number tells apart. */
export const bytes = z.number().min(-9e15).max(9e15);
/** A count that a person types; a million is a hundred times our largest estate. */
export const count = z.number().int().min(0).max(1_000_000);
/** A line that a person types: a name, a command, a rule; the longest systems take has 2,000 characters. */
export const text = z.string().trim().max(2_000, 'has over 2,000 characters');
/** A text of many lines that a person types or pastes, such as a script: some 4,000 lines. */
export const longText = z.string().max(200_000, 'has over 200,000 characters');
/** A path in a tree; common systems open none that is longer (PATH_MAX). */
export const path = z.string().max(4_096, 'has over 4,096 characters');
/** A text that must not be empty; `what` names it with its article. */
export const filled = (what: string) => text.min(1, `${what} is empty`);
export const done = z.strictObject({ done: z.literal(true) });

/** RFC 9457 problem details, with the faults of each field. */
export const problemSchema = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number(),
  detail: z.string(),
  faults: z.array(z.object({ path: z.string(), message: z.string() })).default([]),
});
export type Problem = z.infer<typeof problemSchema>;
