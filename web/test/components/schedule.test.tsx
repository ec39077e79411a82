/** The schedule of a line: what stands in a new row, and where a fault of which row is said. */
import { cleanup, fireEvent, screen, within } from '@testing-library/react';
import { useState } from 'react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { CutScheduleRequest, RingRequest } from '@vatline/contract/cut-schedule';
import type { LineDetail } from '@vatline/contract/image';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import { ScheduleFields, schedulePaths } from '../../src/images/schedule/schedule-fields.tsx';
import { choose, shown } from './shown.tsx';

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const ring = (poolId: string, change: Partial<RingRequest> = {}): RingRequest => ({
  poolId,
  window: { rule: 'FREQ=WEEKLY;BYDAY=SU', start: '02:00', end: '03:00' },
  batch: 2,
  maxUnavailable: 2,
  drainLimitMinutes: 30,
  reserve: null,
  ...change,
});
const schedule = (change: Partial<CutScheduleRequest> = {}): CutScheduleRequest => ({
  rule: 'FREQ=WEEKLY;BYDAY=SA',
  at: '20:00',
  zone: 'Europe/Dublin',
  takeUpdates: true,
  onlyIfChanged: true,
  leaveRunning: false,
  waitHours: 24,
  rollouts: [],
  ...change,
});
const pool = (id: string, name: string, hosts: number, lineId = 'l1') =>
  ({ id, name, hosts, lineId, clone: id === 'p2' ? 'linked' : 'full' }) as PoolSummary;

/** Shows the fields and keeps what they change, as the tab does. */
function show(first: CutScheduleRequest, pools: PoolSummary[], faults: Record<string, string> = {}) {
  let now = first;
  function Kept() {
    const [own, setOwn] = useState(first);
    now = own;
    return (
      <ScheduleFields
        line={{ id: 'l1' } as LineDetail}
        schedule={own}
        onChange={setOwn}
        fault={(path) => faults[path]}
      />
    );
  }
  const view = shown(<Kept />, { 'GET /pools': pools });
  return { ...view, now: () => now };
}
const pools = [pool('p1', 'desk-staff', 24), pool('p2', 'pilot-bench', 4), pool('p3', 'other', 9, 'l2')];
const row = (n: number) => screen.getByRole('group', { name: `Rollout ${n}` });
const type = (within_: HTMLElement, label: string, text: string) =>
  fireEvent.change(within(within_).getByLabelText(label), { target: { value: text } });

describe('the cut', () => {
  it('is by a usual rule, or by one that is written', async () => {
    const view = show(schedule(), []);
    await choose(view, 'Cut it', 'on the second Saturday of a month');
    expect(view.now().rule).toBe('FREQ=MONTHLY;BYDAY=2SA');
    expect(screen.queryByLabelText('Cut it, rule')).toBeNull();
    await choose(view, 'Cut it', 'by a rule');
    fireEvent.change(screen.getByLabelText('Cut it, rule'), { target: { value: 'FREQ=DAILY;INTERVAL=3' } });
    expect(view.now().rule).toBe('FREQ=DAILY;INTERVAL=3');
  });

  it('takes, checks and leaves running as its boxes say', async () => {
    const { user, now } = show(schedule(), []);
    for (const box of screen.getAllByRole('checkbox')) await user.click(box);
    expect([now().takeUpdates, now().onlyIfChanged, now().leaveRunning]).toEqual([false, false, true]);
  });

  it('names its zone, and says there what is wrong with zone or time', () => {
    show(schedule({ zone: 'Europe/Nowhere' }), [], {
      zone: 'is no time zone',
      waitHours: 'is more than 30 days',
    });
    const at = (label: string) =>
      screen.getByText(label, { selector: '.field-label' }).closest('.field')?.querySelector('[role=alert]')
        ?.textContent;
    expect([at('At, Europe/Nowhere'), at('Then wait, h')]).toEqual([
      'is no time zone',
      'is more than 30 days',
    ]);
  });
});

describe('the rollouts that follow', () => {
  it('begin with the smallest pool of the line, in an hour of the night, in as many waves as fit', async () => {
    const { user, now } = show(schedule(), pools);
    await user.click(await screen.findByText('Add the pilot'));
    expect(now().rollouts).toEqual([
      {
        poolId: 'p2',
        window: { rule: 'FREQ=WEEKLY;BYDAY=SU', start: '02:00', end: '03:00' },
        // Linked clones take 25 min each, nine in ten: two waves fit into the hour, of 2 of the 4 hosts.
        batch: 2,
        maxUnavailable: 2,
        drainLimitMinutes: 30,
        reserve: null,
      },
    ]);
  });

  it('go on with the next larger one, in a window that begins when the last one ends', async () => {
    const { user, now } = show(schedule({ rollouts: [ring('p2')] }), pools);
    await user.click(await screen.findByText('Add the next pool'));
    expect(now().rollouts.map((one) => [one.poolId, one.window.start, one.window.end])).toEqual([
      ['p2', '02:00', '03:00'],
      ['p1', '03:00', '05:00'],
    ]);
    // Full clones take 40 min: three waves fit into the two hours, of 8 of the 24 hosts.
    expect(now().rollouts[1]?.batch).toBe(8);
    const add = screen.getByRole('button', { name: 'Add the next pool' });
    expect((add as HTMLButtonElement).disabled).toBe(true);
  });

  it('have two hours each, also behind one that ends late', async () => {
    const { user, now } = show(
      schedule({ rollouts: [ring('p2', { window: { rule: 'FREQ=DAILY', start: '21:00', end: '23:00' } })] }),
      pools,
    );
    await user.click(await screen.findByText('Add the next pool'));
    expect(now().rollouts[1]?.window).toEqual({ rule: 'FREQ=DAILY', start: '23:00', end: '01:00' });
  });

  it('only of pools that are made from the line', async () => {
    const view = show(schedule(), [pool('p3', 'other', 9, 'l2')]);
    expect(await screen.findByText('No pool is made from this line yet.')).toBeTruthy();
    expect(screen.queryByRole('button', { name: /^Add/ })).toBeNull();
    cleanup();
    const second = show(schedule({ rollouts: [ring('p2')] }), pools);
    await screen.findByText('pilot-bench, 4');
    await second.user.click(screen.getByRole('combobox', { name: 'Pool 1' }));
    const choices = await screen.findAllByText(/, \d+$/, { selector: '.ant-select-item-option-content' });
    expect(choices.map((one) => one.textContent)).toEqual(['desk-staff, 24', 'pilot-bench, 4']);
    expect(view.now().rollouts).toEqual([]);
  });

  it('change one by one', async () => {
    const { now, user } = show(
      schedule({ rollouts: [ring('p2'), ring('p1', { maxUnavailable: 9 })] }),
      pools,
    );
    type(row(2), 'From', '04:00');
    type(row(2), 'Hosts at a time', '12');
    expect(now().rollouts.map((one) => [one.window.start, one.batch, one.maxUnavailable])).toEqual([
      ['02:00', 2, 2],
      // As many may be out of service as are worked on at a time.
      ['04:00', 12, 12],
    ]);
    type(row(2), 'Hosts at a time', '3');
    expect(now().rollouts[1]?.maxUnavailable).toBe(12);
    await user.click(within(row(1)).getByText('Take out'));
    expect(now().rollouts.map((one) => one.poolId)).toEqual(['p1']);
  });

  it('say in their own row what is wrong with them, and every fault that can come has its place', () => {
    const two = schedule({ rollouts: [ring('p2'), ring('p1')] });
    show(two, pools, {
      'rollouts.1.window.end': 'is before its beginning',
      'rollouts.1.maxUnavailable': 'must be at least 1',
    });
    expect(within(row(1)).queryByRole('alert')).toBeNull();
    expect(
      within(row(2))
        .getAllByRole('alert')
        .map((one) => one.textContent),
    ).toEqual(['is before its beginning', 'must be at least 1']);
    expect(schedulePaths(two)).toEqual(expect.arrayContaining(['rule', 'zone', 'rollouts.1.window.end']));
  });
});
