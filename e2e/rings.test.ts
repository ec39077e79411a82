/** A version that goes through rings, as a newcomer would take it there by what the screens say. */
import { describe, expect, it } from 'vitest';
import type { RingOrder } from '@vatline/contract/rings/order';
import type { StagedRollout, StagedSummary } from '@vatline/contract/rings/staged';
import { beginJourney } from './journey.ts';
import type { RunningApp } from '../server/test/running-app.ts';
import type { Visitor } from './browser.ts';

let app: RunningApp;
let visitor: Visitor;
const { open, skipUntil } = beginJourney((started) => {
  ({ app, visitor } = started);
});

const reading = async (): Promise<RingOrder> => {
  const found = (await app.api<RingOrder[]>('/ring-orders')).find((one) => one.name.startsWith('Reading'));
  if (!found) throw new Error('the demo has no order for the reading rooms');
  return found;
};
const staged = async (): Promise<StagedRollout> => {
  const [first] = await app.api<StagedSummary[]>('/staged-rollouts');
  return app.api<StagedRollout>(`/staged-rollouts/${first?.id ?? ''}`);
};

describe('an order of rings', () => {
  it('says when a version would be through, ring by ring', async () => {
    await open(`/rollouts/rings/${(await reading()).id}`);
    await visitor.answer(/Through all rings by \d\d:\d\d .* \(9 in 10\)\./);
    await visitor.sees('reading-rooms: 6 of 60 hosts');
    await visitor.sees('reading-rooms: 36 of 60 hosts');
    await visitor.sees('all hosts done, 24 h of soak, sign-ins as quick as before, an approval');
  });

  it('says beside a ring what is wrong with it, and loses nothing', async () => {
    await visitor.clickText('A third');
    await visitor.choose('Hosts of the ring', 'those of a name');
    await visitor.type('Name, with * and ?', 'X*');
    await visitor.sees('no host of the pool is called X*');
    await visitor.click('Drop the changes');
    await visitor.answer(/Through all rings by/);
  });

  it('is kept as another revision', async () => {
    await visitor.clickText('A third');
    await visitor.type('Hours of soak', '26');
    await visitor.click('Keep as revision 2');
    await visitor.sees(/Revision 2, Mon 22 Mar 08:\d\d, engineer: 3 rings/);
    expect((await reading()).rings[1]?.gate.soakHours).toBe(26);
    expect(await visitor.violations()).toEqual([]);
  });
});

describe('a rollout through rings', () => {
  it('begins with the first ring, and says what the next one waits for', async () => {
    await visitor.click('Roll out through 3 rings');
    await visitor.sees('reading-rooms: 0 of 6 done');
    await skipUntil(async () => (await staged()).rings[0]?.gate.for === 'soak');
    await visitor.answer(/First tenth soaks until \d\d:\d\d .* Through by .* \(9 in 10\)\./);
    expect(await visitor.violations()).toEqual([]);
  });

  it('waits for somebody else, and home says so', async () => {
    await skipUntil(async () => (await staged()).asksSince !== null);
    await open('/');
    await visitor.sees('Reading rooms by parts waits for an approval');
    await open(`/rollouts/staged/${(await staged()).id}`);
    await visitor.answer(/Waits for an approval since/);
    await visitor.sees('An approver decides here, who did not begin the rollout.');
    await visitor.choose('You act as', 'approver');
    await visitor.click('Approve');
    await visitor.sees('The reason is empty');
    await visitor.type('Why decide so', 'six hosts, no complaints');
    await visitor.click('Approve');
    // What stands before somebody now is the next gate; the one they decided at is a click away.
    await visitor.sees('A third, ring 2 of 3');
    await visitor.clickText('First tenth');
    await visitor.sees('six hosts, no complaints');
    await visitor.sees('Open');
    expect((await staged()).rings[1]?.state).toBe('started');
  });

  it('is held when people wait longer to sign in, with the evidence', async () => {
    await app.api('/estate/faults', { kind: 'slow sign-ins', target: 'reading-rooms' });
    await skipUntil(async () => (await staged()).state !== 'under way');
    await visitor.answer(/^Held: A third: sign-ins take \d+ s instead of \d+ s in the middle/);
    await visitor.clickText('reading-rooms: 18 of 18 done');
    await visitor.sees(/\d+ s against \d+ s in the middle/);
    await visitor.type('Why decide so', 'a slow profile server, mended since');
    await visitor.click('Open it anyway');
    await visitor.sees('Open: opened anyway: a slow profile server, mended since');
    expect((await staged()).rings[2]?.state).toBe('started');
  });

  it('is stopped with a reason, and a ring goes back by its own rollout', async () => {
    await visitor.click('Stop the rollout');
    await visitor.type('Why stop', 'seen enough');
    await visitor.click('Stop it here');
    await visitor.answer(/Stopp/);
    await visitor.clickText('First tenth');
    await visitor.clickText('See its rollout, host by host');
    await visitor.sees('reading-rooms');
    await visitor.sees(/First tenth, a ring of Reading rooms by parts/);
  });
});
