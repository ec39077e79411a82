/** How smoothly the host grid pans, against an empty page of the same height in the same browser. */
import type { Page } from 'puppeteer-core';
import { Visitor } from '../e2e/browser.ts';

export interface Pan {
  readonly frames: number;
  /** Frames that took more than one and a half times their turn at 60 a second. */
  readonly late: number;
  /** The longest time between two frames, in milliseconds. */
  readonly worst: number;
}

const FRAMES = 240;

/** Scrolls an element a little at every frame, there and back, and looks at the time between frames. */
function pan(page: Page, selector: string): Promise<Pan> {
  return page.evaluate(
    async (css, count) => {
      const element = document.querySelector(css);
      if (!element) throw new Error(`there is no ${css}`);
      const reach = element.scrollHeight - element.clientHeight;
      if (reach <= 0) throw new Error(`${css} does not scroll`);
      const gaps: number[] = [];
      let last = await new Promise<number>(requestAnimationFrame);
      for (let i = 0; i < count; i++) {
        element.scrollTop = reach * (1 - Math.abs(1 - (2 * i) / count));
        const now = await new Promise<number>(requestAnimationFrame);
        gaps.push(now - last);
        last = now;
      }
      return { frames: count, late: gaps.filter((gap) => gap > 25).length, worst: Math.max(...gaps) };
    },
    selector,
    FRAMES,
  );
}

/** Pans the grid of a pool, then an empty element of the same height. */
export async function panGrid(address: string, poolId: string): Promise<{ grid: Pan; empty: Pan }> {
  const visitor = await Visitor.open();
  try {
    const { page } = visitor;
    await page.goto(`${address}/pools/${poolId}`);
    await page.waitForSelector('.host-grid-scroll canvas');
    await page.waitForNetworkIdle({ concurrency: 1 });
    const grid = await pan(page, '.host-grid-scroll');
    const height = await page.$eval('.host-grid-scroll', (element) => element.scrollHeight);
    await page.setContent(
      `<div id="peer" style="height:400px;overflow:auto"><div style="height:${height}px"></div></div>`,
    );
    return { grid, empty: await pan(page, '#peer') };
  } finally {
    await visitor.close();
  }
}
