/** How smoothly 10,000 hosts pan as a grid and are filtered as a table, each against an empty page in the same browser. */
import type { Page } from 'puppeteer-core';
import { Visitor } from '../e2e/browser.ts';

export interface Frames {
  readonly frames: number;
  /** Frames that took more than one and a half times their turn at 60 a second. */
  readonly late: number;
  /** The longest time between two frames, in milliseconds. */
  readonly worst: number;
}

const FRAMES = 240;

/** Scrolls an element a little at every frame, there and back, and looks at the time between frames. */
function pan(page: Page, selector: string): Promise<Frames> {
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
export async function panGrid(address: string, poolId: string): Promise<{ grid: Frames; empty: Frames }> {
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

/** What somebody types who looks for hosts, a key every tenth of a second, and takes away again. */
const TYPED = ['0', '00', '004', '0042', '00421', '0042', '004', '0', '', '9', '97', '976', '97', '9', ''];
const KEY_MS = 100;

/** Gives an input each text in turn, as keys do, and looks at the time between frames all the while. */
function type(page: Page, selector: string): Promise<Frames> {
  return page.evaluate(
    async (css, texts, pauseMs) => {
      const input = document.querySelector<HTMLInputElement>(css);
      if (!input) throw new Error(`there is no ${css}`);
      const set = Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')?.set;
      const gaps: number[] = [];
      let last = await new Promise<number>(requestAnimationFrame);
      for (const text of texts) {
        set?.call(input, text);
        input.dispatchEvent(new Event('input', { bubbles: true }));
        const until = last + pauseMs;
        while (last < until) {
          const now = await new Promise<number>(requestAnimationFrame);
          gaps.push(now - last);
          last = now;
        }
      }
      return {
        frames: gaps.length,
        late: gaps.filter((gap) => gap > 25).length,
        worst: Math.max(...gaps),
      };
    },
    selector,
    TYPED,
    KEY_MS,
  );
}

/** Filters the table of a pool by parts of names, then types the same into an empty page. */
export async function filterTable(
  address: string,
  poolId: string,
): Promise<{ table: Frames; empty: Frames }> {
  const visitor = await Visitor.open();
  try {
    const { page } = visitor;
    await page.goto(`${address}/pools/${poolId}`);
    await visitor.click('as a table');
    await page.waitForSelector('.host-row a');
    await page.waitForNetworkIdle({ concurrency: 1 });
    // Once before, so that no time of compiling is in it.
    await type(page, '.host-filter');
    await page.waitForNetworkIdle({ concurrency: 1 });
    const table = await type(page, '.host-filter');
    await page.setContent('<input id="peer" />');
    return { table, empty: await type(page, '#peer') };
  } finally {
    await visitor.close();
  }
}
