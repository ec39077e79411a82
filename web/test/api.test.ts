/** What the interface asks, and what has to be asked anew for some news. */
import { configureStore } from '@reduxjs/toolkit';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { Topic } from '@vatline/contract/topics';
import { addressOf, api, tagsOfNews } from '../src/api/base.ts';
import { imagesApi } from '../src/api/images.ts';
import { jobsApi } from '../src/api/jobs.ts';
import { poolsApi } from '../src/api/pools.ts';
import { faultAt, problemOf } from '../src/api/problem.ts';

const newStore = () =>
  configureStore({
    reducer: { [api.reducerPath]: api.reducer },
    middleware: (base) => base({ serializableCheck: false }).concat(api.middleware),
  });
let store: ReturnType<typeof newStore>;
/** Addresses that were asked, in order. */
let asked: string[];
let answer: (url: string) => Response;

beforeEach(() => {
  store = newStore();
  asked = [];
  answer = () => Response.json([]);
  vi.stubGlobal(
    'Request',
    class extends Request {
      constructor(input: RequestInfo | URL, init?: RequestInit) {
        super(typeof input === 'string' ? `http://here${input}` : input, init);
      }
    },
  );
  vi.stubGlobal('fetch', (request: Request) => {
    asked.push(`${request.method} ${request.url.replace('http://here/api/v1', '')}`);
    return Promise.resolve(answer(request.url));
  });
});
afterEach(() => vi.unstubAllGlobals());

describe('an address', () => {
  it('has its parameters in, whatever is in them', () => {
    expect(addressOf({ path: '/lines/:id/checks/:check' }, { id: 'a/b', check: 'tools before?' })).toBe(
      '/lines/a%2Fb/checks/tools%20before%3F',
    );
    expect(addressOf({ path: '/lines' })).toBe('/lines');
  });
  it('goes out with the query and the method of its endpoint', async () => {
    await store.dispatch(poolsApi.endpoints.hosts.initiate({ query: { q: 'CC 0' } }));
    await store.dispatch(jobsApi.endpoints.cancelJob.initiate({ params: { id: 'job-1' } }));
    expect(asked).toEqual(['GET /hosts?q=CC+0', 'POST /jobs/job-1/cancel']);
  });
});

/** The addresses that are asked anew for some news, everything having been asked once. */
async function askedAnewFor(...news: Topic[]): Promise<string[]> {
  const lookedAt = [
    store.dispatch(imagesApi.endpoints.lines.initiate({})),
    store.dispatch(imagesApi.endpoints.line.initiate({ params: { id: 'a' } })),
    store.dispatch(imagesApi.endpoints.line.initiate({ params: { id: 'b' } })),
    store.dispatch(poolsApi.endpoints.cells.initiate({ params: { id: 'p' } })),
    store.dispatch(jobsApi.endpoints.job.initiate({ params: { id: 'j' } })),
    store.dispatch(jobsApi.endpoints.jobs.initiate({})),
  ];
  await Promise.all(lookedAt);
  asked = [];
  store.dispatch(api.util.invalidateTags(tagsOfNews(news)));
  await vi.waitFor(() =>
    expect(Object.values(store.getState().api.queries).every((one) => one?.status === 'fulfilled')).toBe(
      true,
    ),
  );
  return asked.map((one) => one.replace('GET ', '')).sort();
}

describe('news', () => {
  it('of one thing are asked about where it is, and where all of its kind are', async () =>
    expect(await askedAnewFor('line:a')).toEqual(['/lines', '/lines/a']));
  it('of a whole kind are asked about everywhere', async () =>
    expect(await askedAnewFor('line')).toEqual(['/lines', '/lines/a', '/lines/b']));
  it('of how far a job is do not ask for what only its end changes', async () => {
    expect(await askedAnewFor('progress:j', 'pool:p')).toEqual(['/jobs', '/jobs/j', '/pools/p/cells']);
    expect(await askedAnewFor('progress:other')).toEqual(['/jobs']);
  });
  it('of nothing that is looked at ask for nothing', async () =>
    expect(await askedAnewFor('access', 'rollout:x')).toEqual([]));
});

describe('a change', () => {
  it('has asked anew what its endpoint says that it changes: done, or refused since that is out of date', async () => {
    const line = { params: { id: 'a' } };
    await store.dispatch(imagesApi.endpoints.line.initiate(line));
    await store.dispatch(imagesApi.endpoints.revisions.initiate(line));
    asked = [];
    const save = imagesApi.endpoints.saveRecipe.initiate({ ...line, body: { steps: [], basedOn: 1 } });
    const saved = async (status: number) => {
      asked = [];
      const problem = { type: 'about:blank', title: 'No', status, detail: 'no' };
      answer = (url) => (url.endsWith('/recipe') ? Response.json(problem, { status }) : Response.json([]));
      await store.dispatch(save);
      await vi.waitFor(() => {
        const all = Object.values(store.getState().api.queries);
        expect(all.every((one) => one?.status === 'fulfilled')).toBe(true);
      });
      return asked.slice(1).sort();
    };
    const both = ['GET /lines/a', 'GET /lines/a/revisions'];
    expect(await saved(200)).toEqual(both);
    expect(await saved(422)).toEqual([]);
    expect(await saved(409)).toEqual(both);
  });
});

describe('a problem', () => {
  it('is the document that the server sent, with its faults at their fields', () => {
    const data = { title: 'No', status: 422, detail: 'no', faults: [{ path: 'name', message: 'is empty' }] };
    const problem = problemOf({ status: 422, data });
    expect(problem).toEqual(data);
    expect([faultAt(problem, 'name'), faultAt(problem, 'site'), faultAt(undefined, 'name')]).toEqual([
      'is empty',
      undefined,
      undefined,
    ]);
  });
  it('has no faults where the document has none', () =>
    expect(problemOf({ status: 409, data: { detail: 'no' } })?.faults).toEqual([]));
  it('is said in words where nobody answered or nothing was said', () => {
    expect(problemOf({ status: 'FETCH_ERROR' })?.detail).toBe(
      'The server does not answer; is it still running?',
    );
    expect(problemOf({ status: 502, data: '<html>' })?.detail).toBe('The server gave no reason');
    expect([problemOf(undefined), problemOf('x')]).toEqual([undefined, undefined]);
  });
});
