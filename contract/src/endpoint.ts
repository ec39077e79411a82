/** What an endpoint of the API is: enough for the server to check, the web to call, and OpenAPI to tell. */
import { z } from 'zod';

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
}): Endpoint<P, Q, B, R> {
  return {
    params: nothing as unknown as P,
    query: nothing as unknown as Q,
    body: nothing as unknown as B,
    ...definition,
  };
}

/** The revision that a change was made from; 0 for something new. */
export const basedOn = z.number().int().min(0).max(1e9);
/** What a change was kept as. */
export const keptAs = z.strictObject({ revision: z.number() });

export const idParams = z.strictObject({ id: z.string() });
/** Instants travel as UTC milliseconds, sizes as bytes, shares as fractions. */
export const instant = z.number();
export const bytes = z.number();
export const text = z.string().trim();
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
