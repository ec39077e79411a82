/**
 * Calls to the server; each station adds its own. Arguments and answers have the types of the
 * contract, and so has what makes an answer out of date: an endpoint says what it depends on and
 * what it changes.
 */
import { createApi, fetchBaseQuery, type EndpointBuilder } from '@reduxjs/toolkit/query/react';
import type { z } from 'zod';
import type { Endpoint } from '@vatline/contract/endpoint';
import type { Page } from '@vatline/contract/page';
import { partsOf, topicKinds, topicsOf, type Topic, type TopicKind } from '@vatline/contract/topics';

type AnyEndpoint = Endpoint<z.ZodType, z.ZodType, z.ZodType, z.ZodType>;

/** As callers hold it: what is sent is never changed. */
type Given<T> = T extends readonly (infer Element)[]
  ? readonly Given<Element>[]
  : T extends object
    ? { readonly [Key in keyof T]: Given<T[Key]> }
    : T;

/** What a caller gives: parameters of the address, of the query, and the body; each only if taken. */
interface Call<E extends AnyEndpoint> {
  readonly params?: z.input<E['params']>;
  readonly query?: z.input<E['query']>;
  readonly body?: Given<z.input<E['body']>>;
}

const baseQuery = fetchBaseQuery({ baseUrl: '/api/v1' });
type Builder = EndpointBuilder<typeof baseQuery, TopicKind, 'api'>;

export const api = createApi({
  reducerPath: 'api',
  baseQuery,
  tagTypes: topicKinds,
  endpoints: () => ({}),
});

/** The path of an endpoint with its parameters filled in. */
export function addressOf(
  { path }: Pick<AnyEndpoint, 'path'>,
  params: Readonly<Record<string, string>> = {},
): string {
  return path.replace(/:(\w+)/g, (_match, name: string) => encodeURIComponent(params[name] ?? ''));
}

function request(endpoint: AnyEndpoint, call: Call<AnyEndpoint>) {
  return {
    url: addressOf(endpoint, call.params as Record<string, string> | undefined),
    method: endpoint.method.toUpperCase(),
    ...(call.query ? { params: call.query as Record<string, unknown> } : {}),
    ...(call.body === undefined ? {} : { body: call.body as object }),
  };
}

export function reads<E extends AnyEndpoint>(build: Builder, endpoint: E) {
  return build.query<z.output<E['response']>, Call<E>>({
    query: (call) => request(endpoint, call as Call<AnyEndpoint>),
    providesTags: (_answer, _error, call) => topicsOf(endpoint.dependsOn, call).map(tagOf),
  });
}

/** What an endpoint gives page by page. */
interface PagedEndpoint extends AnyEndpoint {
  readonly response: z.ZodType<Page<unknown>>;
}

/** A list that is read page by page, as far as somebody looks; news ask all pages anew that were read. */
export function readsPages<E extends PagedEndpoint>(build: Builder, endpoint: E) {
  return build.infiniteQuery<z.output<E['response']>, Call<E>, string>({
    infiniteQueryOptions: {
      initialPageParam: '',
      getNextPageParam: (last) => last.next ?? undefined,
    },
    query: ({ queryArg, pageParam }) => {
      const call = queryArg as Call<AnyEndpoint>;
      const query = { ...(call.query as object), ...(pageParam === '' ? {} : { after: pageParam }) };
      return request(endpoint, { ...call, query });
    },
    providesTags: (_answer, _error, call) => topicsOf(endpoint.dependsOn, call).map(tagOf),
  });
}

const CONFLICT = 409;

export function does<E extends AnyEndpoint>(build: Builder, endpoint: E) {
  return build.mutation<z.output<E['response']>, Call<E>>({
    query: (call) => request(endpoint, call as Call<AnyEndpoint>),
    // A conflict says that what is looked at is out of date; any other refusal has changed nothing.
    invalidatesTags: (answer, error, call) =>
      error && error.status !== CONFLICT ? [] : tagsOfNews(topicsOf(endpoint.changes, call, answer)),
  });
}

interface Tag {
  readonly type: TopicKind;
  readonly id?: string;
}

/** Of what depends on all things of a kind, whichever of them the news are of. */
const ANY = 'any';

function tagOf(topic: Topic): Tag {
  const [type, id] = partsOf(topic);
  return { type, id: id === '' ? ANY : id };
}

/** What has to be asked anew for some news. */
export function tagsOfNews(topics: readonly Topic[]): Tag[] {
  return topics.flatMap((topic) => {
    const [type, id] = partsOf(topic);
    return id === ''
      ? [{ type }]
      : [
          { type, id },
          { type, id: ANY },
        ];
  });
}
