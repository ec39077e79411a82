/** Making a pool: what is wrong at which field, and when that is said. */
import { cleanup, screen, within } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { PoolPreview } from '@vatline/contract/pool/endpoints';
import { NewPoolBench } from '../../src/pools/new-pool.tsx';
import { refusal, shown, type Answers } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const preview = (change: Partial<PoolPreview> = {}): PoolPreview => ({
  names: ['WCL-NEW-01', 'WCL-NEW-02', 'WCL-NEW-03'],
  clashes: [],
  fit: {
    fits: true,
    largest: 40,
    coresNeeded: 32,
    coresFree: 160,
    bytesNeeded: 80e9,
    bytesFree: 2e12,
    binding: 'cores',
  },
  minutes: 5,
  assumed: { growthBytesPerDay: 2e8, days: 30, swapBytes: 2e9, atOnce: 8, minutesAHost: 4.5 },
  faults: [],
  ...change,
});
const missing = (path: string, message: string) => ({ path, message, isMissing: true });
const wrong = (path: string, message: string) => ({ path, message, isMissing: false });
const show = (answer: PoolPreview, more: Answers = {}) =>
  shown(<NewPoolBench />, {
    'GET /lines': [],
    'GET /estate': { sites: [] },
    'GET /estate/units': [],
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
    ['8 hosts fit, made in about 5 min.', preview()],
    [
      '8 hosts do not fit; 3 do.',
      preview({ fit: { ...(preview().fit ?? ({} as never)), fits: false, largest: 3 } }),
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

  it('says how much is needed of what there is, and what gives out first', async () => {
    show(preview());
    const aside = within(await screen.findByRole('complementary', { name: 'What it would be' }));
    expect(aside.getByText('32 of 160 free')).toBeTruthy();
    expect(aside.getByText('80 GB of 2.0 TB free')).toBeTruthy();
    expect(aside.getByText(/The largest batch that fits is 40; cores give out first/)).toBeTruthy();
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
});
