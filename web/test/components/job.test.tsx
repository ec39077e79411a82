/** A job as a card: what it is doing, what can be done about it, and what it says when that is refused. */
import { cleanup, screen } from '@testing-library/react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { Job } from '@vatline/contract/job';
import { JobCard } from '../../src/parts/job.tsx';
import { clock, EIGHT, refusal, shown } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const MINUTE = 60_000;
const step = (title: string, state: Job['steps'][number]['state'], progress = 0) => ({
  title,
  state,
  progress,
  startedAt: state === 'waiting' ? null : EIGHT - 4 * MINUTE,
  endedAt: state === 'done' ? EIGHT - MINUTE : null,
});
const job = (change: Partial<Job> = {}): Job => ({
  id: 'job-1',
  kind: 'make pool',
  title: 'Make 8 hosts of records-office',
  subject: 'pool:p1',
  state: 'running',
  by: 'engineer',
  error: null,
  createdAt: EIGHT - 9 * MINUTE,
  endedAt: null,
  promisedAt: null,
  steps: [step('Write the ledger', 'done'), step('Make WCL-RO-01 to WCL-RO-08', 'running', 0.5)],
  waitsForEstate: false,
  canGoOn: false,
  canUndo: false,
  canPause: false,
  pausing: false,
  ...change,
});
const buttons = () =>
  screen
    .getAllByRole('button')
    .map((one) => one.textContent)
    .filter((text) => text !== 'show the log');

describe('a job at work', () => {
  it('says which of its steps it is at, and for how long', async () => {
    shown(<JobCard job={job()} />, {});
    expect(await screen.findByText('Make WCL-RO-01 to WCL-RO-08, step 2 of 2, 4 min')).toBeTruthy();
    expect(screen.getByRole('img', { name: '1 of 2 steps done' })).toBeTruthy();
  });

  it.each<[string, Partial<Job>, string[]]>([
    ['can be cancelled', {}, ['Cancel']],
    ['can be paused where it may', { canPause: true }, ['Cancel', 'Pause']],
    ['that will pause can go on instead', { canPause: true, pausing: true }, ['Cancel', 'Go on']],
    ['that is paused goes on or is cancelled', { state: 'paused', canGoOn: true }, ['Cancel', 'Go on']],
    [
      'that failed may go on, or be undone',
      { state: 'failed', canGoOn: true, canUndo: true },
      ['Go on', 'Undo'],
    ],
    ['that is done may be undone', { state: 'done', endedAt: EIGHT, canUndo: true }, ['Undo']],
    ['that is done may be past undoing', { state: 'done', endedAt: EIGHT }, []],
  ])('%s', (_what, change, wanted) => {
    shown(<JobCard job={job(change)} />, {});
    expect(buttons()).toEqual(wanted);
  });

  it('is cancelled by its button; a refusal is said on the card', async () => {
    const late = refusal({ '': 'it has ended already' }, 409);
    const { sent, user } = shown(<JobCard job={job()} />, { 'POST /jobs/job-1/cancel': late });
    await user.click(screen.getByRole('button', { name: 'Cancel' }));
    expect(sent[0]?.call).toBe('POST /jobs/job-1/cancel');
    expect((await screen.findByRole('alert')).textContent).toContain('it has ended already');
  });

  it('that waits for the estate says so while its clock is paused, and not while it runs', async () => {
    const waits = job({ waitsForEstate: true });
    const paused = { 'GET /estate/clock': clock({ rate: 0 }) };
    const { unmount } = shown(<JobCard job={waits} />, paused);
    expect(await screen.findByText(/clock is paused, so this goes no further/)).toBeTruthy();
    unmount();
    shown(<JobCard job={waits} />, {});
    await screen.findByText(/step 2 of 2/);
    expect(screen.queryByText(/clock is paused/)).toBeNull();
  });
});

describe('a job that has ended', () => {
  const ended = (state: Job['state']) =>
    job({ state, endedAt: EIGHT, steps: [step('Write the ledger', state === 'failed' ? 'failed' : 'done')] });

  it.each<[Job['state'], string]>([
    ['done', 'done, 9 min'],
    ['cancelled', 'cancelled, 9 min'],
    ['failed', 'failed, 9 min'],
  ])('as %s says so, and how long it took', async (state, text) => {
    shown(<JobCard job={ended(state)} />, {});
    expect(await screen.findByText(text)).toBeTruthy();
  });

  it('says why it failed', () => {
    shown(<JobCard job={{ ...ended('failed'), error: 'yard-a has no cores left' }} />, {});
    expect(screen.getByText('yard-a has no cores left')).toBeTruthy();
  });
});

describe('its log', () => {
  it('is asked for when it is opened, with the times of the estate', async () => {
    const detail = { ...job(), log: [{ at: EIGHT, step: 0, text: 'WCL-RO-01 is in service' }], ledger: {} };
    const { sent, user } = shown(<JobCard job={job()} />, { 'GET /jobs/job-1': detail });
    await vi.waitFor(() => expect(screen.getByText(/step 2 of 2/)).toBeTruthy());
    expect(sent).toEqual([]);
    await user.click(screen.getByRole('button', { name: 'show the log' }));
    expect((await screen.findByLabelText('log')).textContent).toBe('08:00  WCL-RO-01 is in service');
    await user.click(screen.getByRole('button', { name: 'hide the log' }));
    expect(screen.queryByLabelText('log')).toBeNull();
  });
});
