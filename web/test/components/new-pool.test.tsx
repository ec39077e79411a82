/** Making a pool: what is wrong at which field, and when that is said. */
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { FitShown, PoolPreview } from '@vatline/contract/pool/preview';
import { NewPoolBench } from '../../src/pools/new/new-pool.tsx';
import { choose, EIGHT, refusal, rowsOfTable, shown, type Answers, type Sent } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const row = (
  what: FitShown['shared'][number]['what'],
  needed: number,
  there: number,
  largest: number | null,
) => ({
  what,
  of: '',
  needed,
  there,
  after: there - needed,
  largest,
});
const fit = (change: Partial<FitShown> = {}): FitShown => ({
  fits: true,
  largest: 40,
  binding: 'cores',
  places: [
    {
      site: 'yard-b',
      hosts: 8,
      fits: true,
      largest: 40,
      rows: [row('cores', 32, 160, 40), row('memory', 128e9, 2e12, 125)],
    },
  ],
  shared: [row('names', 8, 99, 99)],
  changes: [],
  ...change,
});
const preview = (change: Partial<PoolPreview> = {}): PoolPreview => ({
  names: ['WCL-NEW-01', 'WCL-NEW-02', 'WCL-NEW-03'],
  clashes: [],
  fit: fit(),
  conditions: [],
  storage: null,
  minutes: 5,
  minutesAtMost: 7,
  ou: '',
  assumed: {
    growthBytesPerDay: 2e8,
    growthP90BytesPerDay: 4e8,
    days: 30,
    longestSessionDays: 0.5,
    swapBytes: 2e9,
    scratchBytes: 6e9,
    atWork: 12,
    starting: 300,
    startSeconds: 60,
    parentShare: 0.8,
  },
  faults: [],
  ...change,
});
const missing = (path: string, message: string) => ({ path, message, isMissing: true });
const wrong = (path: string, message: string) => ({ path, message, isMissing: false });
const show = (answer: PoolPreview, more: Answers = {}) =>
  shown(<NewPoolBench />, {
    'GET /lines': [],
    'GET /estate': { sites: [], licences: [] },
    'GET /directory/units': [],
    'GET /directory/accounts': [],
    'GET /pools': [],
    'GET /estate/quota-requests': [],
    'POST /pools/preview': answer,
    ...more,
  });
const heading = () => screen.findByRole('heading', { level: 1 });
const make = () => screen.getByRole('button', { name: /^Make \d+ hosts?$/ });
const faultAt = (label: string) =>
  screen.getByText(label, { selector: '.field-label' }).closest('.field')?.querySelector('[role=alert]')
    ?.textContent;

describe('the answer', () => {
  it.each<[string, PoolPreview]>([
    ['8 hosts fit on yard-b, made in about 5 min (9 in 10: 7 min).', preview()],
    [
      '8 hosts do not fit on yard-b: 3 do; cores give out first.',
      preview({ fit: fit({ fits: false, largest: 3 }) }),
    ],
    [
      '8 hosts do not fit on yard-b: not one does; storage gives out first.',
      preview({ fit: fit({ fits: false, largest: 0, binding: 'datastore' }) }),
    ],
    ['Make a pool of hosts', preview({ fit: null })],
  ])('%s', async (sentence, answer) => {
    show(answer);
    await vi.waitFor(async () => expect((await heading()).textContent).toBe(sentence));
  });

  it('shows the names, and marks those that are taken', async () => {
    show(preview({ clashes: ['WCL-NEW-02'] }));
    const aside = within(await screen.findByRole('complementary', { name: 'What it would be' }));
    expect(aside.getByText('WCL-NEW-02').className).toBe('trouble');
    expect(aside.getByText('WCL-NEW-01').className).toBe('');
    expect(aside.getByText('1 taken, shown in red')).toBeTruthy();
  });

  it('says of everything what is needed, there and after, and how many it is enough for', async () => {
    show(preview({ fit: fit({ fits: false, shared: [row('names', 8, 5, 5)] }) }));
    const table = await screen.findByRole('table', { name: '8 hosts on yard-b' });
    expect(rowsOfTable(table)).toEqual([
      ['Cores ', '32', '160', '128', '40'],
      ['Memory ', '128 GB', '2.0 TB', '1.9 TB', '125'],
      ['Names ', '8', '5', '3 short', '5'],
    ]);
  });

  it('says what holds besides room, and what does not first', async () => {
    const conditions = [
      { what: 'unit', verdict: 'holds', says: 'OU=Desks is in the directory' },
      { what: 'rights', verdict: 'fails', says: 'join-desks may not delete computers in OU=Maps' },
    ] as const;
    show(preview({ conditions: [...conditions] }));
    const section = within(await screen.findByRole('region', { name: 'Does it fit?' }));
    expect(section.getByText('Join-desks may not delete computers in OU=Maps')).toBeTruthy();
    expect(section.getByText('OU=Desks is in the directory.')).toBeTruthy();
  });
});

describe('what would make it fit', () => {
  const placing = { site: 'yard-a', size: 'desk-2', network: 'desks', datastore: 'standard' };
  const changes: FitShown['changes'] = [
    { kind: 'site', placing, largest: 95 },
    { kind: 'two sites', here: { ...placing, site: 'yard-b' }, hosts: 3, there: placing, rest: 5 },
    {
      kind: 'quota',
      site: 'yard-b',
      asks: [{ what: 'cores', more: 20 }],
      text: 'Please raise the quota of yard-b',
    },
  ];
  const asked = (sent: readonly Sent[]) =>
    sent.filter((one) => one.call === 'POST /pools/preview').at(-1)?.body;
  const open = async () => {
    const view = show(preview({ fit: fit({ fits: false, largest: 3, changes }) }));
    const section = within(await screen.findByRole('region', { name: 'What would make it fit' }));
    const take = (text: string) =>
      view.user.click(
        within(section.getByText(text).closest('.fit-change') as HTMLElement).getByRole('button', {
          name: 'Do that',
        }),
      );
    return { ...view, section, take };
  };

  it('is offered in words, the request for more with its text', async () => {
    const { section } = await open();
    expect(section.getByText('Ask for more on yard-b: 20 cores')).toBeTruthy();
    expect(section.getByText('Please raise the quota of yard-b')).toBeTruthy();
  });

  it('is asked for with one press, and stands there until it is answered', async () => {
    let requests: object[] = [];
    const view = show(preview({ fit: fit({ fits: false, largest: 3, changes }) }), {
      'GET /estate/quota-requests': () => requests,
      'POST /estate/quota-requests': () => {
        requests = [{ id: 'q1', site: 'yard-b', state: 'asked', askedAt: EIGHT, answer: '' }];
        return { id: 'q1' };
      },
    });
    await view.user.click(await screen.findByRole('button', { name: 'Ask for it' }));
    expect(await screen.findByText('asked at 08:00, not answered yet')).toBeTruthy();
    expect(view.sent.find((one) => one.call === 'POST /estate/quota-requests')?.body).toMatchObject({
      site: 'yard-b',
      cores: 20,
      memoryBytes: 0,
      text: 'Please raise the quota of yard-b',
    });
  });

  it('is taken with one press: fewer hosts', async () => {
    const { take, sent } = await open();
    await take('Make 3 hosts instead of 8');
    await vi.waitFor(() => expect(asked(sent)).toMatchObject({ count: 3 }));
  });

  it('is taken with one press: two sites', async () => {
    const { take, sent } = await open();
    await take('3 on yard-b and 5 on yard-a, all of size desk-2');
    await vi.waitFor(() =>
      expect(asked(sent)).toMatchObject({
        size: 'desk-2',
        places: [
          { site: 'yard-b', datastore: 'standard', atMost: 3 },
          { site: 'yard-a', datastore: 'standard', atMost: null },
        ],
      }),
    );
  });

  it('is taken with one press: another site', async () => {
    const { take, sent } = await open();
    await take('All on yard-a, size desk-2: up to 95 fit');
    await vi.waitFor(() =>
      expect(asked(sent)).toMatchObject({ size: 'desk-2', places: [{ site: 'yard-a' }] }),
    );
  });
});

describe('what is wrong', () => {
  const faults = [missing('name', 'The name is empty'), wrong('pattern', 'has no # for a number')];

  it('stands at its field at once; what was not given yet does not, but in the list of what is missing', async () => {
    show(preview({ fit: null, faults }));
    await vi.waitFor(() => expect(faultAt('Name pattern')).toBe('has no # for a number'));
    expect(faultAt('Name of the pool')).toBeUndefined();
    const aside = within(screen.getByRole('complementary', { name: 'What it would be' }));
    expect(aside.getByText('A name')).toBeTruthy();
  });

  it('stands at every field after the first try, and nothing is made', async () => {
    const { sent, user } = show(preview({ fit: null, faults }));
    await vi.waitFor(() => expect(faultAt('Name pattern')).toBeTruthy());
    await user.click(make());
    expect(faultAt('Name of the pool')).toBe('The name is empty');
    expect(sent.some((one) => one.call === 'POST /pools')).toBe(false);
  });

  it('that is found only when it is made stands at its field as well', async () => {
    const taken = refusal({ pattern: 'WCL-NEW-01 is being made for another pool already' }, 409);
    const { user } = show(preview(), { 'POST /pools': taken });
    await vi.waitFor(async () => expect((await heading()).textContent).toContain('fit'));
    await user.click(make());
    await vi.waitFor(() =>
      expect(faultAt('Name pattern')).toBe('WCL-NEW-01 is being made for another pool already'),
    );
  });
});

describe('what is typed', () => {
  it('is asked about as it is typed, as it is typed', async () => {
    const { sent, user } = show(preview());
    await user.type(await screen.findByPlaceholderText('such as records-office'), 'records');
    await vi.waitFor(() => {
      const asked = sent.filter((one) => one.call === 'POST /pools/preview').at(-1)?.body;
      expect(asked).toMatchObject({ name: 'records', pattern: 'WCL-NEW-##', count: 8, kind: 'pooled' });
    });
  });

  it('is what is made', async () => {
    const made = { poolId: 'p9', jobId: 'j9' };
    const { sent, user } = show(preview(), { 'POST /pools': made });
    await user.type(await screen.findByPlaceholderText('such as records-office'), 'records');
    await vi.waitFor(async () => expect((await heading()).textContent).toContain('fit'));
    await user.click(make());
    await vi.waitFor(() => {
      const body = sent.find((one) => one.call === 'POST /pools')?.body;
      expect(body).toMatchObject({ name: 'records', clone: 'linked', start: 1, count: 8, sessionLimit: 12 });
    });
  });

  it('is still there when the screen is left and opened again, until it is begun anew', async () => {
    const { store, user, unmount } = show(preview());
    await user.type(await screen.findByPlaceholderText('such as records-office'), 'records');
    unmount();
    expect(store.getState()).toMatchObject({ poolDraft: { draft: { name: 'records' } } });
    show(preview());
  });

  it('is a copy of another pool where that is wanted', async () => {
    const pool = { id: 'p1', name: 'desk-staff' };
    const detail = {
      ...pool,
      kind: 'pooled',
      clone: 'full',
      sessionLimit: 7,
      ou: 'OU=Desks',
      pattern: 'WCL-DS-###',
      blend: { imageVersionId: 'v1' },
      places: [{ site: 'yard-a', network: 'desks', datastore: 'fast', atMost: null }],
      settings: { size: 'shared-8', signOut: 'keep', days: 14, joinAccount: 'join-desks' },
    };
    const view = show(preview(), { 'GET /pools': [pool], 'GET /pools/p1': detail });
    await choose(view, 'Begin with a copy of', 'desk-staff');
    await vi.waitFor(() =>
      expect(view.sent.filter((one) => one.call === 'POST /pools/preview').at(-1)?.body).toMatchObject({
        name: '',
        clone: 'full',
        sessionLimit: 7,
        size: 'shared-8',
        days: 14,
        joinAccount: 'join-desks',
        imageVersionId: 'v1',
        pattern: 'WCL-DS-###',
        fillGaps: true,
        places: [{ site: 'yard-a', datastore: 'fast' }],
      }),
    );
  });
});
