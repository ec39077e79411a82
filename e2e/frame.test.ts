/** The frame around every station: its pages, the clock, what is found by Ctrl+K; and a line that is empty. */
import { afterAll, beforeAll, describe, expect, it } from 'vitest';
import { RunningApp } from '../server/test/running-app.ts';
import type { Visitor } from './browser.ts';
import { beginJourney } from './journey.ts';
import { sidings } from '../web/src/app/sidings.ts';

let app: RunningApp;
let visitor: Visitor;
const { open, speed } = beginJourney((started) => ({ app, visitor } = started));

const jumpingTo = async () => (await app.api<{ jumpingTo: number | null }>('/estate/clock')).jumpingTo;

describe('the pages of a station', () => {
  it.each(['images', 'packages'])('of %s are one click away, the open one marked', async (station) => {
    await open(`/${station}`);
    for (const { name, path } of sidings[station] ?? []) {
      await visitor.click(name);
      await visitor.sees(name, '.sidings a[aria-current="page"]');
      if (path !== '') expect(new URL(visitor.page.url()).pathname).toContain(`/${station}/${path}`);
    }
    expect(await visitor.violations()).toEqual([]);
  });
});

describe('the clock', () => {
  it('that is paused says so where something waits for it, and is run from there', async () => {
    await open('/images');
    await visitor.answer('Nothing to build');
    await speed(0);
    await visitor.click('Cut version 16');
    await visitor.sees('The estate’s clock is paused, so this goes no further', '.evidence');
    await visitor.click('Run it at 60×');
    await visitor.page.waitForSelector('[title="An hour in a minute"][aria-pressed="true"]');
    await visitor.page.waitForFunction(() => !document.body.innerText.includes('clock is paused'));
  });

  it('that is sent to the end of a window says where to, and is stopped on the way', async () => {
    await speed(0);
    await visitor.click('To the end of this window');
    // The night takes a while to happen, so there is time to read and to click.
    await visitor.sees(/to 05:00 (tonight|today)/, '.tape-clock');
    await visitor.click('stop here');
    await visitor.page.waitForSelector('[title="Pause the clock"]');
    expect(await jumpingTo()).toBeNull();
  });
});

describe('what is found by Ctrl+K', () => {
  it('is an action with an object, from any station', async () => {
    await open('/estate');
    await visitor.pressControl('k');
    await visitor.type('Find or do', 'roll out to map-lab');
    await visitor.sees('Roll out to map-lab', '.found');
    await visitor.page.keyboard.press('Enter');
    await visitor.sees('map-lab', '.bench');
    expect(visitor.page.url()).toContain('/rollouts/new?pool=');
  });

  it('is a host by a part of its name, with its pool', async () => {
    await visitor.pressControl('k');
    await visitor.type('Find or do', 'cc-007');
    await visitor.sees(/WCL-CC-007 ?host of contact-centre/, '.found');
    await visitor.page.keyboard.press('Enter');
    await visitor.sees('WCL-CC-007', '.bench');
  });
});

describe('an empty line', () => {
  let empty: RunningApp;
  beforeAll(async () => {
    empty = await RunningApp.start('--empty');
  });
  afterAll(() => empty.stop());

  it('shows the whole line, what each step lacks, and goes on as the work does', async () => {
    await visitor.page.goto(empty.address);
    await visitor.answer('Nothing is on the line yet');
    await visitor.sees('needs a version', '.first-steps');
    expect(await visitor.violations()).toEqual([]);
    await visitor.click('Begin an image line');
    await visitor.answer('Begin an image line');
    await visitor.type('Name', 'Office desktop');
    await visitor.click('Begin the line');
    await visitor.page.waitForFunction(() => location.pathname.startsWith('/images/line'));
    await visitor.page.goto(empty.address);
    await visitor.answer('No host runs anything yet');
    await visitor.sees('done', '.first-step.done');
    await visitor.sees('Build and cut', '.first-step.next');
  });
});
