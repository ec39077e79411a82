/** What hosts run: two blends beside each other, a package that goes while people work, and the way back. */
import { readFileSync } from 'node:fs';
import { describe, expect, it } from 'vitest';
import type { BlendUse } from '@vatline/contract/blends';
import type { Rollout } from '@vatline/contract/rollout';
import { beginJourney } from './journey.ts';
import type { RunningApp } from '../server/test/running-app.ts';
import type { Visitor } from './browser.ts';

let app: RunningApp;
let visitor: Visitor;
const { open, skipUntil } = beginJourney((started) => {
  ({ app, visitor } = started);
});

const poolOf = async (name: string): Promise<string> =>
  (await app.api<BlendUse[]>('/blends')).find((one) => one.pool === name)?.poolId ?? '';
const newest = async (): Promise<Rollout | undefined> =>
  (await app.api<Rollout[]>('/rollouts')).find((one) => one.pool === 'map-lab');
const begun = () => skipUntil(async () => (await newest())?.state === 'at work');
const ended = () => skipUntil(async () => ((await newest())?.endedAt ?? null) !== null);

describe('the blends of a pool', () => {
  it('say who runs what, and what it takes to get all there', async () => {
    await open('/rollouts/blends');
    await visitor.answer('22 of 40 hosts of contact-centre run blend 2; 18 run another.');
    await visitor.sees('rebuild 22');
    await visitor.sees('version 12 is retired');
    await visitor.sees(/A host is emptied and made anew: about \d+ min each/);
    expect(await visitor.violations()).toEqual([]);
  });

  it('say of each whether it can be used, and why not', async () => {
    await visitor.click('1 Wo 12');
    await visitor.sees('Can blend 1 be used now?');
    await visitor.sees('Version 12 is retired');
  });

  it('lead to all pools that run the same image, each a ring', async () => {
    await open(`/rollouts/blends/${await poolOf('desk-staff')}`);
    await visitor.sees('Everywhere that runs Staff multi-session 14');
    await visitor.click('Plan it for 2 pools, 42 hosts');
    await visitor.answer(/Through all rings by \d\d:\d\d|These rings/);
    await visitor.sees('desk-staff: 24 of 24 hosts');
  });
});

describe('a package less', () => {
  it('is planned for now: nobody has to leave', async () => {
    await open(`/rollouts/new?pool=${await poolOf('map-lab')}`);
    await visitor.page.focus('[aria-label="Packages attached"]');
    await visitor.page.keyboard.press('Backspace');
    await visitor.page.keyboard.press('Escape');
    await visitor.sees(
      'Only packages differ: agents attach them while people work on, and nobody has to leave.',
    );
    await visitor.click('Begin now');
    await visitor.answer(/Done by 08:\d\d today \(9 in 10\), never fewer than \d+ seats? free\./);
    expect(await visitor.violations()).toEqual([]);
  });

  it('is attached by agents; whoever was there keeps what they had', async () => {
    await visitor.click('Roll out 8 hosts');
    await visitor.answer(/8 hosts left: begins today at 08:\d\d/);
    await begun();
    await visitor.sees(/its agent looks at 08:\d\d/);
    await ended();
    await visitor.answer(/8 of 8 hosts done, ended Mon 22 Mar 08:\d\d\./);
    await visitor.sees(/\d sessions? from before keeps? what was there/);
  });

  it('comes again: the earlier blend is one press away', async () => {
    await open(`/rollouts/blends/${await poolOf('map-lab')}`);
    await visitor.answer('All 8 hosts of map-lab run blend 3.');
    await visitor.sees('1 package removed');
    await visitor.sees('attach 8');
    await visitor.click('Go back');
    await visitor.sees('Only packages differ');
    await visitor.click('Begin now');
    await visitor.answer(/Done by \d\d:\d\d today \(9 in 10\)/);
    await visitor.click('Roll out 8 hosts');
    await visitor.answer(/8 hosts left: begins today at 08:\d\d/);
    await ended();
    await open(`/rollouts/blends/${await poolOf('map-lab')}`);
    await visitor.answer('All 8 hosts of map-lab run blend 2.');
  });

  it('leaves a record, and a promise that was held or not', async () => {
    await open(`/rollouts/${(await newest())?.id ?? ''}`);
    await visitor.clickText('its record');
    await visitor.answer('Record of map-lab: blend 3 to 2');
    await visitor.sees(/8 of 8 hosts done, half of them within \d+ min, the slowest, WCL-ML-\d\d/);
    await visitor.sees(/Promised between Mon 22 Mar .* 8 in 10; ended Mon 22 Mar/);
    const saved = JSON.parse(readFileSync(await visitor.saves('Save as JSON'), 'utf8')) as {
      hosts: { way: string }[];
    };
    expect(new Set(saved.hosts.map((host) => host.way))).toEqual(new Set(['attach in service']));
    expect(await visitor.violations()).toEqual([]);
    await open('/rollouts/promises');
    await visitor.answer(/The 9 in 10 held in [012] of 2 rollouts; below 10 that says nothing yet\./);
    expect(await visitor.violations()).toEqual([]);
  });
});
