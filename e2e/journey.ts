/** What every journey begins and ends with: the demo with its clock standing still, and a browser. */
import { afterAll, afterEach, beforeAll, expect } from 'vitest';
import type { Rollout } from '@vatline/contract/rollout';
import { RunningApp } from '../server/test/running-app.ts';
import { Visitor } from './browser.ts';

interface Started {
  readonly app: RunningApp;
  readonly visitor: Visitor;
}

interface Ways {
  /** Opens an address and waits until its bench has an answer. */
  open(path: string): Promise<void>;
  /** Sets the speed of the clock. */
  speed(rate: 0 | 1 | 60 | 600): Promise<void>;
  /** Skips the hours up to the next window of a rollout, event by event. */
  toNextWindow(rollout: string): Promise<void>;
  /** Skips from event to event until something holds: much quicker than a fast clock. */
  skipUntil(holds: () => Promise<boolean>): Promise<void>;
}

/**
 * Call it once, outside of tests. `begun` is given the application and the browser before the first of
 * them; `flags` are those of the server, such as `--empty`.
 */
export function beginJourney(begun: (started: Started) => void, ...flags: string[]): Ways {
  let started: Started | undefined;
  const there = (): Started => {
    if (!started) throw new Error('the journey has not begun');
    return started;
  };
  const ways: Ways = {
    open: async (path) => {
      const { app, visitor } = there();
      await visitor.page.goto(app.address + path);
      await visitor.page.waitForSelector('h1.answer');
    },
    speed: async (rate) => {
      await there().app.api('/estate/clock', { action: 'rate', rate });
    },
    toNextWindow: async (rollout) => {
      const { app } = there();
      const { nextWindow } = await app.api<Rollout>(`/rollouts/${rollout}`);
      for (let at = 0; at < (nextWindow?.start ?? 0);)
        ({ now: at } = await app.api<{ now: number }>('/estate/clock', { action: 'next event' }));
    },
    skipUntil: async (holds) => {
      while (!(await holds())) await there().app.api('/estate/clock', { action: 'next event' });
    },
  };
  beforeAll(async () => {
    started = { app: await RunningApp.start(...flags), visitor: await Visitor.open() };
    begun(started);
    await ways.speed(0);
  });
  afterAll(async () => {
    await started?.visitor.close();
    await started?.app.stop();
  });
  afterEach(() => {
    const { app, visitor } = there();
    expect(visitor.errors).toEqual([]);
    expect(app.output).not.toMatch(/"level":(50|60)/);
  });
  return ways;
}
