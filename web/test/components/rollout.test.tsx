/** A rollout on its bench: how it stands in one sentence, and what can be done about it and its hosts. */
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Rollout } from '@vatline/contract/rollout';
import { RolloutBench } from '../../src/rollouts/rollout-bench.tsx';
import { EIGHT, refusal, shown, type Answers } from './shown.tsx';
import { usualPlan } from './usual-plan.ts';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const HOUR = 3_600_000;
const blend = (number: number, change: Partial<Rollout['from']> = {}): Rollout['from'] => ({
  id: `blend-${number}`,
  number,
  imageVersionId: `image-${number}`,
  line: 'Staff multi-session',
  imageNumber: 13 + number,
  dye: 'woad',
  packages: [{ id: 'p9', name: 'Pellam Reader', version: '9.0' }],
  madeAt: EIGHT,
  ...change,
});
const rollout = (change: Partial<Rollout> = {}): Rollout => ({
  id: 'r1',
  poolId: 'p1',
  pool: 'desk-staff',
  from: blend(1),
  to: blend(2),
  state: 'asleep',
  isReturn: false,
  plan: usualPlan,
  revision: 1,
  pausedAt: null,
  calendars: [],
  hosts: 24,
  done: 0,
  atWork: 0,
  failed: 0,
  setAside: 0,
  startedAt: EIGHT,
  windowsFrom: EIGHT,
  partOf: null,
  endedAt: null,
  nextWindow: { start: EIGHT + 17 * HOUR, end: EIGHT + 21 * HOUR, minutes: 240, clockChange: 0 },
  promisedAt: EIGHT + 19 * HOUR,
  expectedAt: EIGHT + 19 * HOUR,
  ...change,
});
const host = (name: string) => ({
  host: {
    id: `host-${name}`,
    name,
    state: 'failed',
    dye: 'woad',
    blend: 1,
    nextDye: null,
    sessions: 0,
    note: '',
  },
  stage: 'failed',
  attempts: 2,
  startedAt: EIGHT,
  finishedAt: null,
  error: 'the join was refused',
});
const none = { rows: [], total: 0, next: null };
const show = (change: Partial<Rollout> = {}, more: Answers = {}) =>
  shown(<RolloutBench id="r1" />, {
    'GET /rollouts/r1': rollout(change),
    'GET /rollouts/r1/cells': [],
    'GET /rollouts/r1/hosts': none,
    ...more,
  });

describe('how it stands', () => {
  it.each<[string, Partial<Rollout>]>([
    ['24 hosts left: begins tonight at 01:00, done by 03:00 tonight (9 in 10).', {}],
    ['20 hosts left: goes on tonight at 01:00, done by 03:00 tonight (9 in 10).', { done: 4 }],
    [
      '4 of 24 hosts done, 3 at work; done by 03:00 tonight (9 in 10).',
      { state: 'at work', done: 4, atWork: 3 },
    ],
    ['24 hosts left: begins tonight at 01:00, with no end in sight.', { expectedAt: null }],
    ['24 hosts left: has no window left, with no end in sight.', { expectedAt: null, nextWindow: null }],
    ['2 failed hosts to decide about; all others are done.', { done: 22, failed: 2 }],
    ['1 failed host to decide about; all others are back.', { done: 23, failed: 1, isReturn: true }],
    ['Stopped; 3 hosts at work are finished first.', { state: 'stopped', atWork: 3 }],
    ['Stopped; 1 host at work is finished first.', { state: 'stopped', atWork: 1 }],
    [
      '20 of 24 hosts done, ended Mon 22 Mar 08:00.',
      { state: 'stopped', done: 20, endedAt: EIGHT, nextWindow: null },
    ],
  ])('%s', async (sentence, change) => {
    show(change);
    // Days are named once the estate has said what time it is.
    await vi.waitFor(() => expect(screen.getByRole('heading', { level: 1 }).textContent).toBe(sentence));
  });

  it('counts those that wait as what no other number counts', async () => {
    show({ state: 'at work', done: 4, atWork: 3, failed: 2, setAside: 1 });
    expect(await screen.findByText('14 waiting')).toBeTruthy();
    expect(screen.getByRole('img', { name: '4 done, 3 at work, 2 failed of 24' })).toBeTruthy();
  });

  it('says that the clocks change in its window, and on whose days it rests', async () => {
    const nextWindow = { start: EIGHT + 17 * HOUR, end: EIGHT + 20 * HOUR, minutes: 180, clockChange: -60 };
    show({ nextWindow, calendars: ['Libraries closed', 'Stocktaking'] });
    expect(await screen.findByText(', 3 hours: the clocks change')).toBeTruthy();
    expect(screen.getByText(/not on the days of Libraries closed and Stocktaking/)).toBeTruthy();
  });
});

describe('what changes', () => {
  it('is the image, what is added and what goes', async () => {
    const packages = [{ id: 'z141', name: 'Zinnet Browser', version: '141' }];
    show({ to: blend(2, { packages }) });
    const list = within(await screen.findByRole('complementary', { name: 'What can be done' })).getAllByRole(
      'listitem',
    );
    expect(list.map((item) => item.textContent)).toEqual([
      'image 14 to 15',
      '+ Zinnet Browser 141',
      '− Pellam Reader 9.0',
    ]);
  });

  it('is said to be nothing where only the image is another one', async () => {
    show();
    expect(await screen.findByText('the same 1 package attached')).toBeTruthy();
  });
});

const wayBack = (change: object = {}) => ({
  refusal: '',
  hosts: 5,
  batch: 8,
  finish: { p10: EIGHT, p50: EIGHT, p90: EIGHT + 40 * 60_000 },
  minSeatsLeft: { p10: -7, p50: 0, p90: 3 },
  ways: { rebuild: 5, attach: 0, 'attach in service': 0 },
  losing: 2,
  rehearsed: null,
  rehearseOn: null,
  ...change,
});

describe('what can be done', () => {
  const offered = async () => {
    const decisions = await screen.findByRole('group', { name: 'Decide' });
    return within(decisions)
      .queryAllByRole('button')
      .map((one) => one.textContent);
  };

  it.each<[string, Partial<Rollout>, string[]]>([
    ['before its first window it can be stopped', {}, ['Pause', 'Change', 'Stop']],
    ['once hosts are changed there is a way back', { done: 4 }, ['Pause', 'Change', 'Stop', 'Go back']],
    ['stopped, only the way back is left', { state: 'stopped', done: 4 }, ['Go back']],
    ['a way back has none of its own', { isReturn: true, done: 4 }, ['Pause', 'Change', 'Stop']],
    ['ended, it can be gone back from', { state: 'done', done: 24, endedAt: EIGHT }, ['Go back']],
  ])('%s', async (_what, change, buttons) => {
    show(change);
    expect(await offered()).toEqual(buttons);
  });

  it('stops at a click; a refusal is said', async () => {
    const { sent, user } = show(
      {},
      { 'POST /rollouts/r1/stop': refusal({ '': 'This rollout has ended already' }, 409) },
    );
    await user.click(await screen.findByRole('button', { name: 'Stop' }));
    expect(sent.some((one) => one.call === 'POST /rollouts/r1/stop')).toBe(true);
    expect((await screen.findByRole('alert')).textContent).toContain('This rollout has ended already');
  });

  it('goes back only after it was said what that does', async () => {
    const way = wayBack();
    const { sent, user } = show(
      { done: 4, atWork: 1 },
      { 'GET /rollouts/r1/way-back': way, 'POST /rollouts/r1/go-back': { id: 'r2' } },
    );
    await user.click(await screen.findByRole('button', { name: 'Go back' }));
    const dialog = within(await screen.findByRole('dialog'));
    expect((await dialog.findByRole('status')).textContent).toContain(
      'All back by 08:40 today (9 in 10), 7 seats short',
    );
    expect(dialog.getByText(/It begins once the hosts at work are finished/)).toBeTruthy();
    expect(dialog.getByText('2 hosts lose what their people keep on them')).toBeTruthy();
    expect(sent.some((one) => one.call.endsWith('go-back'))).toBe(false);
    await user.click(dialog.getByRole('button', { name: 'Take 5 hosts back' }));
    await vi.waitFor(() => expect(sent.some((one) => one.call === 'POST /rollouts/r1/go-back')).toBe(true));
  });

  it('offers a rehearsal on one host, and says what one took', async () => {
    const ended = { state: 'done', done: 24, endedAt: EIGHT } as const;
    const first = show(ended, {
      'GET /rollouts/r1/way-back': wayBack({ rehearseOn: 'WCL-DS-001', losing: 0 }),
    });
    await first.user.click(await screen.findByRole('button', { name: 'Go back' }));
    const link = await screen.findByRole('link', { name: 'Rehearse it on WCL-DS-001 first' });
    expect(link.getAttribute('href')).toMatch(/^\/rollouts\/new\?pool=.+&blend=.+&hosts=WCL-DS-001$/);
    cleanup();
    const rehearsed = { host: 'WCL-DS-001', minutes: 24.6, at: EIGHT - 3_600_000 };
    const { user } = show(ended, { 'GET /rollouts/r1/way-back': wayBack({ rehearsed }) });
    await user.click(await screen.findByRole('button', { name: 'Go back' }));
    expect((await screen.findByText(/Rehearsed on/)).textContent).toBe(
      'Rehearsed on WCL-DS-001 60 min ago: back after 25 min.',
    );
  });

  it('says why there is no way back, and then offers none', async () => {
    const refusal = 'Version 14 is gone: its image was deleted';
    const { user } = show({ done: 4 }, { 'GET /rollouts/r1/way-back': wayBack({ refusal, hosts: 0 }) });
    await user.click(await screen.findByRole('button', { name: 'Go back' }));
    expect(await screen.findByText(refusal)).toBeTruthy();
    expect(screen.getByRole<HTMLButtonElement>('button', { name: 'Take 0 hosts back' }).disabled).toBe(true);
  });

  it('asks about each host that failed, with what it failed of', async () => {
    const failed = { rows: [host('WCL-DS-007')], total: 22, next: 'x' };
    const decide = 'POST /rollouts/r1/hosts/host-WCL-DS-007';
    const { sent, user } = show(
      { failed: 22, done: 2 },
      { 'GET /rollouts/r1/hosts': failed, [decide]: { done: true } },
    );
    expect(
      await screen.findByText('the join was refused, after 2 attempts; it is out of service'),
    ).toBeTruthy();
    expect(screen.getByText('and 21 more hosts; they come as these are decided')).toBeTruthy();
    await user.click(screen.getByRole('button', { name: 'Try again' }));
    await user.click(screen.getByRole('button', { name: 'Set aside' }));
    const bodies = sent.filter((one) => one.call === decide).map((one) => one.body);
    expect(bodies).toEqual([{ action: 'retry' }, { action: 'set aside' }]);
  });
});
