/** Home: whether hosts run what they should, what comes next, and what needs a person. */
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Home } from '@vatline/contract/home';
import type { ImageVersion } from '@vatline/contract/image';
import { HomePage } from '../../src/home/home-page.tsx';
import { EIGHT, refusal, shown, type Answers } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const HOUR = 3_600_000;
type Lane = Home['lanes'][number];
type Pool = Lane['pools'][number];

const version = (number: number, state: ImageVersion['state']) =>
  ({ id: `v${number}`, number, dye: 'woad', state }) as ImageVersion;
const pool = (change: Partial<Pool> = {}): Pool => ({
  id: 'p1',
  name: 'desk-staff',
  hosts: 24,
  rollout: null,
  ...change,
});
const lane = (change: Partial<Lane> = {}): Lane => ({
  lineId: 'l1',
  line: 'Staff multi-session',
  recipeRevision: 7,
  steps: 12,
  versions: [version(14, 'approved')],
  pools: [pool()],
  ...change,
});
const home = (change: Partial<Home> = {}): Home => ({
  hosts: 154,
  asTheyShould: 154,
  next: null,
  lanes: [lane()],
  needs: [],
  ...change,
});
const show = (change: Partial<Home> = {}, more: Answers = {}) =>
  shown(<HomePage />, {
    'GET /home': home(change),
    'GET /journal': { rows: [], total: 0, next: null },
    'GET /pools/p1/cells': [],
    ...more,
  });
const answer = () => screen.findByRole('heading', { level: 1 });
const under = () => document.querySelector('.under-answer')?.textContent;

describe('the answer', () => {
  it.each<[string, Partial<Home>]>([
    ['All 154 hosts run what they should.', {}],
    ['150 of 154 hosts run what they should.', { asTheyShould: 150 }],
    ['9,999 of 10,000 hosts run what they should.', { hosts: 10_000, asTheyShould: 9_999 }],
  ])('%s', async (sentence, change) => {
    show(change);
    expect((await answer()).textContent).toBe(sentence);
  });

  it('is followed by what comes next, when, and until when with which chance', async () => {
    const next = {
      pool: 'desk-staff',
      rolloutId: 'r1',
      hosts: 24,
      windowStart: EIGHT + 17 * HOUR,
      windowEnd: EIGHT + 21 * HOUR,
      expectedAt: EIGHT + 19 * HOUR + 40 * 60_000,
    };
    show({ next });
    await vi.waitFor(() =>
      expect(under()).toBe(
        'Next: 24 hosts of desk-staff, tonight 01:00 to 05:00, done by tonight 03:40 (9 in 10).',
      ),
    );
    expect(screen.getByText('24 hosts of desk-staff').getAttribute('href')).toBe('/rollouts/r1');
    cleanup();
    show({ next: { ...next, windowStart: EIGHT - HOUR, windowEnd: EIGHT + HOUR, expectedAt: null } });
    await vi.waitFor(() => expect(under()).toBe('Next: 24 hosts of desk-staff, now 07:00 to 09:00.'));
  });

  it('says so when nothing is planned, and when it cannot be had', async () => {
    show();
    await answer();
    expect(under()).toBe('No rollout is planned.');
    cleanup();
    shown(<HomePage />, { 'GET /home': refusal({ '': 'The disk is full' }, 503) });
    expect((await screen.findByRole('alert')).textContent).toContain('The disk is full');
  });
});

describe('a lane', () => {
  it('names the line, its recipe and its versions, each where it leads', async () => {
    show({ lanes: [lane({ versions: [version(14, 'approved'), version(15, 'in test')] })] });
    expect((await screen.findByText('Staff multi-session')).getAttribute('href')).toBe('/images/l1');
    expect(screen.getByText('recipe 7, 12 steps')).toBeTruthy();
    expect([...document.querySelectorAll('.lane-version')].map((one) => one.textContent)).toEqual([
      'Wo14approved',
      'Wo15in test',
    ]);
  });

  it('says what it has not', async () => {
    show({ lanes: [lane({ versions: [], pools: [] })] });
    expect(await screen.findByText('no version yet')).toBeTruthy();
    expect(screen.getByText('no pool runs it')).toBeTruthy();
  });

  it.each<[string, Partial<NonNullable<Pool['rollout']>>]>([
    ['20 left: tonight 01:00–05:00done by tonight 03:00', {}],
    ['20 left: now 07:00–09:00', { windowStart: EIGHT - HOUR, windowEnd: EIGHT + HOUR, expectedAt: null }],
    ['20 left, no window', { windowStart: null, windowEnd: null, expectedAt: null }],
    ['20 left, paused', { windowStart: null, windowEnd: null, expectedAt: null, isPaused: true }],
  ])('with a rollout: %s', async (words, change) => {
    const rollout = {
      id: 'r1',
      left: 20,
      isPaused: false,
      windowStart: EIGHT + 17 * HOUR,
      windowEnd: EIGHT + 21 * HOUR,
      expectedAt: EIGHT + 19 * HOUR,
      ...change,
    };
    show({ lanes: [lane({ pools: [pool({ rollout })] })] });
    await vi.waitFor(() => expect(document.querySelector('.lane-next')?.textContent).toBe(words));
    expect(document.querySelector('.lane-next')?.getAttribute('href')).toBe('/rollouts/r1');
  });

  it('without one says that nothing is planned', async () => {
    show();
    expect(await screen.findByText('nothing planned')).toBeTruthy();
  });

  it('asks for the cells of each of its pools, and says how many hosts they are', async () => {
    const { sent } = show({
      lanes: [lane({ pools: [pool(), pool({ id: 'p2', name: 'pilot', hosts: 1 })] })],
    });
    expect(await screen.findByRole('img', { name: 'desk-staff: 24 hosts' })).toBeTruthy();
    expect(screen.getByRole('img', { name: 'pilot: 1 host' })).toBeTruthy();
    await vi.waitFor(() =>
      expect(sent.map((one) => one.call).filter((call) => call.includes('cells'))).toEqual([
        'GET /pools/p1/cells',
        'GET /pools/p2/cells',
      ]),
    );
  });
});

describe('what needs a person', () => {
  const needs: Home['needs'] = [
    {
      id: 'n1',
      tone: 'trouble',
      title: 'No certificate can sign',
      detail: 'its key is lost',
      action: 'See',
      to: '/x',
    },
    {
      id: 'n2',
      tone: 'attention',
      title: '2 hosts failed',
      detail: 'of desk-staff',
      action: 'Decide',
      to: '/y',
    },
  ];

  it('stands in the order in which it was given, each with one action', async () => {
    show({ needs });
    const list = await screen.findByRole('complementary', { name: 'What needs you' });
    expect([...list.querySelectorAll('.finding')].map((one) => one.textContent)).toEqual([
      'No certificate can signits key is lostSee',
      '2 hosts failedof desk-staffDecide',
    ]);
    expect(
      within(list)
        .getAllByRole('img')
        .map((one) => one.getAttribute('aria-label')),
    ).toEqual(['trouble', 'attention']);
  });

  it('is nothing on a good day', async () => {
    show();
    expect(await screen.findByText('Nothing. What comes next is on the tape below.')).toBeTruthy();
  });
});

describe('lately', () => {
  it('holds the last five rows of the journal, each with its time and where it leads', async () => {
    const row = (id: number, text: string) => ({
      id,
      at: EIGHT - id * HOUR,
      kind: 'x',
      subject: '',
      text,
      to: `/at/${id}`,
      by: null,
    });
    show(
      {},
      {
        'GET /journal': {
          rows: [row(1, 'Staff 14 approved'), row(2, 'a rollout ended')],
          total: 2,
          next: null,
        },
      },
    );
    const lately = await screen.findByRole('region', { name: 'Lately' });
    expect([...lately.querySelectorAll('.lately-row')].map((one) => one.textContent)).toEqual([
      'Mon 22 Mar 07:00Staff 14 approved',
      'Mon 22 Mar 06:00a rollout ended',
    ]);
    expect(within(lately).getByText('a rollout ended').getAttribute('href')).toBe('/at/2');
  });
});

describe('before the first host', () => {
  const steps = () => [...document.querySelectorAll('.first-step')].map((one) => one.textContent);

  it('the whole line stands there, and one step is next', async () => {
    show({ hosts: 0, asTheyShould: 0, lanes: [] });
    expect((await answer()).textContent).toBe('Nothing is on the line yet.');
    expect(steps()).toHaveLength(6);
    const buttons = screen.getAllByRole('button');
    expect(buttons.map((one) => one.textContent)).toEqual([
      'First desktops',
      'Begin an image line',
      'Capture a package',
    ]);
    expect(buttons[0]?.className).toContain('ant-btn-color-primary');
    expect(buttons[1]?.className).not.toContain('ant-btn-color-primary');
    expect(steps()[1]).toContain('needs an image line');
  });

  it('what is done is marked, and what it was missing for has its button', async () => {
    show({ hosts: 0, asTheyShould: 0, lanes: [lane({ pools: [] })] });
    expect((await answer()).textContent).toBe('No host runs anything yet.');
    expect(screen.getAllByText('done')).toHaveLength(2);
    expect(screen.getAllByRole('button').map((one) => one.textContent)).toEqual([
      'First desktops',
      'Capture a package',
      'Make a pool',
    ]);
    expect(steps().filter((one) => one.includes('needs a pool'))).toHaveLength(2);
  });
});
