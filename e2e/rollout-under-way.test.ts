/** A rollout that somebody pauses, changes and lets go on, as a newcomer would by what the screens say. */
import { describe, expect, it } from 'vitest';
import type { Rollout } from '@vatline/contract/rollout';
import { beginJourney } from './journey.ts';
import type { RunningApp } from '../server/test/running-app.ts';
import type { Visitor } from './browser.ts';

let app: RunningApp;
let visitor: Visitor;
const { open: goTo } = beginJourney((started) => {
  ({ app, visitor } = started);
});

const contactCentre = async (): Promise<Rollout> => {
  const found = (await app.api<Rollout[]>('/rollouts')).find(
    (one) => one.pool === 'contact-centre' && one.endedAt === null,
  );
  if (!found) throw new Error('the demo has no rollout of the contact centre');
  return found;
};
const open = async () => goTo(`/rollouts/${(await contactCentre()).id}`);

describe('a rollout under way', () => {
  it('is held against the forecast of its start, and takes a host before its turn', async () => {
    await app.api('/estate/clock', { action: 'rate', rate: 0 });
    await open();
    await visitor.sees(/18 done; forecast at its start for now: \d+ to \d+/);
    expect(await visitor.violations()).toEqual([]);
    await visitor.click('Turn of WCL-CC-022');
    await visitor.clickText('Take it next');
    await visitor.page.waitForFunction(
      () => document.querySelector('.rollout-host')?.textContent.startsWith('WCL-CC-022waiting') ?? false,
    );
    await visitor.click('Turn of WCL-CC-019');
    expect(await visitor.violations()).toEqual([]);
    await visitor.page.keyboard.press('Escape');
  });

  it('is paused with a reason, and home says so', async () => {
    await app.api('/estate/clock', { action: 'rate', rate: 0 });
    await open();
    await visitor.answer(/22 hosts left: goes on tonight at 01:00/);
    await visitor.click('Pause');
    await visitor.click('Pause it');
    await visitor.sees('The reason is empty');
    await visitor.type('Why pause', 'exams at the library school');
    await visitor.click('Pause it');
    await visitor.answer(/Paused since 08:0\d today; 22 hosts left\./);
    await visitor.sees(/Paused “exams at the library school”, engineer/);
    await goTo('/');
    await visitor.sees('The rollout of contact-centre is paused');
    await visitor.sees('22 left, paused');
  });

  it('goes on by another plan, whose end is said before', async () => {
    await open();
    await visitor.click('Go on');
    await visitor.answer(/22 hosts left: goes on tonight at 01:00/);
    await visitor.click('Change');
    await visitor.sees(/What is left is done by .* \(9 in 10\)/);
    await visitor.type('Hosts at a time', '40');
    await visitor.sees(/; as it is, by/);
    await visitor.type('At most out of service', '12');
    await visitor.type('Why', 'the centre opens an hour early');
    await visitor.click('Go on like this');
    await visitor.sees(/Hosts at a time 3 → 40; at most out of service \d+ → 12/);
    expect((await contactCentre()).plan).toMatchObject({ batch: 40, maxUnavailable: 12 });
  });

  it('changed by somebody else meanwhile tells whoever comes second what that was', async () => {
    await visitor.click('Change');
    await visitor.sees(/What is left is done by/);
    const { id, plan, revision } = await contactCentre();
    await app.api(`/rollouts/${id}/plan`, {
      plan: { ...plan, batch: 8 },
      why: 'too many at once',
      basedOn: revision,
    });
    await visitor.type('Hosts at a time', '20');
    await visitor.type('Why', 'faster');
    await visitor.sees(/; as it is, by/);
    await visitor.click('Go on like this');
    await visitor.sees(/It was changed meanwhile: hosts at a time 40 → 8/);
    await visitor.click('Leave it');
    expect((await contactCentre()).plan.batch).toBe(8);
  });
});
