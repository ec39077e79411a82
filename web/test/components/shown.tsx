/** A part of the interface on a page of its own, with a server that answers as a test says. */
import { configureStore } from '@reduxjs/toolkit';
import { render, screen } from '@testing-library/react';
import userEvent from '@testing-library/user-event';
import type { ReactElement } from 'react';
import { Provider } from 'react-redux';
import { MemoryRouter } from 'react-router';
import { vi } from 'vitest';
import type { Clock } from '@vatline/contract/estate';
import type { Problem } from '@vatline/contract/endpoint';
import { api } from '../../src/api/base.ts';
import { rootReducer } from '../../src/shell/store.ts';

export interface Sent {
  readonly call: string;
  readonly body: unknown;
}

/** By `GET /pools`, without the query; a function is given the query. */
export type Answers = Record<string, unknown>;

/** Monday, 22 March 2027, eight in the morning in Dublin. */
export const EIGHT = Date.UTC(2027, 2, 22, 8);
export const clock = (change: Partial<Clock> = {}): Clock => ({
  now: EIGHT,
  zone: 'Europe/Dublin',
  rate: 1,
  jumpingTo: null,
  trouble: null,
  ...change,
});

/** A refusal with a fault at each of some fields. */
export function refusal(faults: Record<string, string>, status = 422): Response {
  const problem: Problem = {
    type: 'about:blank',
    title: 'Cannot be used',
    status,
    detail: Object.entries(faults)
      .map(([path, message]) => `${path} ${message}`)
      .join('; '),
    faults: Object.entries(faults).map(([path, message]) => ({ path, message })),
  };
  return Response.json(problem, { status, headers: { 'content-type': 'application/problem+json' } });
}

/** Shows an element; `sent` grows with every request that is no question of the clock. */
export function shown(element: ReactElement, answers: Answers, at = '/') {
  const sent: Sent[] = [];
  const all: Answers = { 'GET /estate/clock': clock(), ...answers };
  vi.stubGlobal('Request', OfThisPage);
  vi.stubGlobal('ResizeObserver', OfNoLayout);
  vi.stubGlobal('fetch', async (request: Request) => {
    const { pathname } = new URL(request.url);
    const call = `${request.method} ${pathname.replace('/api/v1', '')}`;
    const text = await request.clone().text();
    const body: unknown = text === '' ? undefined : JSON.parse(text);
    if (call !== 'GET /estate/clock') sent.push({ call, body });
    const answer = all[call];
    if (answer === undefined) return refusal({ '': `nothing answers ${call}` }, 404);
    // A function is given the body, and may take its time.
    const value: unknown =
      typeof answer === 'function' ? await (answer as (body: unknown) => unknown)(body) : answer;
    return value instanceof Response ? value.clone() : Response.json(value);
  });
  const store = configureStore({
    reducer: rootReducer,
    middleware: (defaults) => defaults().concat(api.middleware),
  });
  const view = render(
    <Provider store={store}>
      <MemoryRouter initialEntries={[at]}>{element}</MemoryRouter>
    </Provider>,
  );
  return { ...view, sent, store, user: userEvent.setup() };
}

/** Nothing has a size here, so nothing changes it. */
class OfNoLayout {
  observe(): void {}
  unobserve(): void {}
  disconnect(): void {}
}

/** Opens a list by its name and takes the choice that reads like this. */
export async function choose({ user }: Pick<ReturnType<typeof shown>, 'user'>, list: string, choice: string) {
  await user.click(screen.getByRole('combobox', { name: list }));
  await user.click(await screen.findByText(choice, { selector: '.ant-select-item-option-content' }));
}

/** The rows of the only table, each as its cells read. */
export function rowsOfTable(within: ParentNode = document): string[][] {
  return [...within.querySelectorAll('tbody tr')].map((row) =>
    [...row.querySelectorAll('td')].map((cell) => cell.textContent),
  );
}

/** The application asks its own origin. */
class OfThisPage extends Request {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === 'string' && input.startsWith('/') ? `http://here${input}` : input, init);
  }
}
