/** Somebody new plans Sunday's rollout: seats would run out, another plan keeps them; it is approved, runs, and goes back. */
import { describe, expect, it } from 'vitest';
import type { Rollout } from '@vatline/contract/rollout';
import { beginJourney } from './journey.ts';
import type { RunningApp } from '../server/test/running-app.ts';
import type { Visitor } from './browser.ts';

let app: RunningApp;
let visitor: Visitor;
const { open, speed, skipUntil, toNextWindow } = beginJourney((started) => {
  ({ app, visitor } = started);
});

const rollouts = () => app.api<Rollout[]>('/rollouts');
const contact = async () => (await rollouts()).filter(({ pool }) => pool === 'contact-centre');

describe('a newcomer', () => {
  let rollout = '';

  it('finds the way to a plan, and is told that seats would run out', async () => {
    // Last week's rollout of the pool comes to its end first.
    await skipUntil(async () => (await contact()).every(({ endedAt }) => endedAt !== null));
    await open('/');
    await visitor.page.keyboard.press('4');
    await visitor.click('Plan a rollout');
    await visitor.answer('Which pool is to run something else?');
    await visitor.click('Plan for contact-centre');
    await visitor.answer(/Done by .* \(9 in 10\), never fewer than \d+ seats free\./);
    await visitor.choose('Nights', 'on Sundays');
    await visitor.type('Hosts at a time', '40');
    await visitor.type('At most out of service', '40');
    await visitor.click('Keep seats');
    await visitor.answer(/, but \d+ seats short at the worst moment\./);
  });

  it('keeps it by a name, takes what else would work, and holds both side by side', async () => {
    await visitor.click('Keep this plan');
    await visitor.type('Name of the plan', 'all in one go');
    await visitor.click('Keep');
    await visitor.sees('all in one go', '.kept-plans');
    await visitor.sees('What else would work');
    const choice = await visitor.sees(/Batch \d+ done [^.]*?\d+ seats free/);
    await visitor.page.evaluate((text) => {
      const rows = [...document.querySelectorAll('.suggestion')];
      rows
        .find((row) => text.includes((row.querySelector('b') as HTMLElement).innerText))
        ?.querySelector('button')
        ?.click();
    }, choice);
    await visitor.answer(/never fewer than \d+ seats free\./);
    await visitor.click('Keep this plan');
    await visitor.type('Name of the plan', 'with seats');
    await visitor.click('Keep');
    await visitor.clickText('Side by side');
    await visitor.answer('“all in one go” is done first; “with seats” leaves most seats.');
    await visitor.sees(/\d+ seats short at the worst/, '[aria-label="all in one go"]');
    expect(await visitor.violations()).toEqual([]);
  });

  it('has the version approved by somebody else, and finds the plan as it was', async () => {
    await visitor.page.locator('[aria-label="with seats"] h2 a').click();
    await visitor.sees('Version 15 is in test and not approved');
    await open('/images');
    await visitor.clickText('Staff multi-session');
    await visitor.click('Versions');
    await visitor.choose('You act as', 'approver');
    await visitor.choose('State of version 15', 'approved');
    await visitor.sees(/approver, Fri 26 Mar/);
    await visitor.choose('You act as', 'engineer');
    const [{ poolId } = { poolId: '' }] = await contact();
    await open(`/rollouts/new?pool=${poolId}`);
    await visitor.page.locator('.kept-plans ::-p-text(with seats)').click();
    await visitor.sees('approved', '.evidence');
    await visitor.answer(/never fewer than \d+ seats free\./);
    await visitor.click('Roll out 40 hosts');
    await visitor.answer(/40 hosts left: begins Sun 28 Mar at 02:00/);
    rollout = visitor.page.url().split('/').pop() ?? '';
  });

  it('runs it at 600 times the clock, and goes back', async () => {
    await toNextWindow(rollout);
    await speed(600);
    await visitor.answer('40 of 40 hosts done');
    await speed(0);
    await visitor.click('Go back');
    await visitor.sees(/All back by \d\d:\d\d .* \(9 in 10\)/, '.ant-modal');
    await visitor.sees(/Rehearse it on WCL-CC-\d+ first/, '.ant-modal');
    await visitor.click('Take 40 hosts back');
    await skipUntil(async () => (await rollouts()).some((row) => row.isReturn && row.endedAt !== null));
    await visitor.answer(/40 of 40 hosts back/);
    const [back] = await contact();
    expect(back).toMatchObject({ isReturn: true, state: 'done', done: 40, to: { imageNumber: 14 } });
  });
});
