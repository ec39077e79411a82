/** What a live message makes the screen ask anew, and what it leaves alone. */
import { act, cleanup, screen } from '@testing-library/react';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { useLive } from '../../src/app/live.ts';
import { homeApi } from '../../src/api/home.ts';
import { poolsApi } from '../../src/api/pools.ts';
import { rowsOf } from '../../src/parts/paged-list.tsx';
import { shown } from './shown.tsx';

/** The stream of the server, in the hands of the test. */
class Stream {
  static last: Stream | undefined;
  onmessage: ((message: { data: string }) => void) | undefined;
  onerror: (() => void) | undefined;
  onopen: (() => void) | undefined;
  isClosed = false;

  constructor(readonly address: string) {
    Stream.last = this;
  }

  close(): void {
    this.isClosed = true;
  }
}

beforeEach(() => {
  vi.useFakeTimers({ shouldAdvanceTime: true });
  vi.stubGlobal('EventSource', Stream);
});
afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

/** Two pools by cells, and the journal. */
function Screen() {
  useLive();
  const { data: one = [] } = poolsApi.useCellsQuery({ params: { id: 'p1' } });
  const { data: two = [] } = poolsApi.useCellsQuery({ params: { id: 'p2' } });
  const journal = rowsOf(homeApi.useJournalInfiniteQuery({ query: {} }));
  return (
    <p>
      {one.length}, {two.length}, {journal.length}
    </p>
  );
}

const tell = async (...topics: string[]) => {
  await act(async () => {
    Stream.last?.onmessage?.({ data: JSON.stringify(topics) });
    await vi.advanceTimersByTimeAsync(400);
  });
};
const answers = {
  'GET /pools/p1/cells': [{}],
  'GET /pools/p2/cells': [{}, {}],
  'GET /journal': { rows: [{ id: 1 }], total: 1, next: null },
};

async function open() {
  const view = shown(<Screen />, answers);
  await screen.findByText('1, 2, 1');
  view.sent.length = 0;
  return view;
}

describe('a live message', () => {
  it('of one pool asks for that pool anew, and for no other', async () => {
    const { sent } = await open();
    await tell('pool:p1');
    expect(sent.map((one) => one.call)).toEqual(['GET /pools/p1/cells']);
  });

  it('of all pools asks for all that are shown', async () => {
    const { sent } = await open();
    await tell('pool');
    expect(sent.map((one) => one.call).sort()).toEqual(['GET /pools/p1/cells', 'GET /pools/p2/cells']);
  });

  it('of something that is not shown asks for nothing', async () => {
    const { sent } = await open();
    await tell('draft:c1', 'line:l1');
    expect(sent).toEqual([]);
  });

  it('that comes many times in a moment asks once', async () => {
    const { sent } = await open();
    await act(async () => {
      for (let i = 0; i < 20; i++) Stream.last?.onmessage?.({ data: '["journal"]' });
      await vi.advanceTimersByTimeAsync(400);
    });
    expect(sent.map((one) => one.call)).toEqual(['GET /journal']);
  });

  it('that was missed while the stream was down makes up for it by asking for everything', async () => {
    const { sent } = await open();
    await act(async () => {
      Stream.last?.onopen?.();
      await vi.advanceTimersByTimeAsync(10);
    });
    expect(sent).toEqual([]);
    await act(async () => {
      Stream.last?.onerror?.();
      Stream.last?.onopen?.();
      await vi.advanceTimersByTimeAsync(10);
    });
    expect(sent.map((one) => one.call).sort()).toEqual([
      'GET /journal',
      'GET /pools/p1/cells',
      'GET /pools/p2/cells',
    ]);
  });
});

it('the stream is closed with the page', async () => {
  const { unmount } = await open();
  unmount();
  expect(Stream.last?.isClosed).toBe(true);
});
