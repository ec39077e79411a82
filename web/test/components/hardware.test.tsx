/** The hardware of a build machine: its fields, its disks, and how large a recording says it should be. */
import { cleanup, fireEvent, screen, within } from '@testing-library/react';
import { useState } from 'react';
import { afterEach, describe, expect, it, vi } from 'vitest';
import type { LineDetail } from '@vatline/contract/image';
import { leanHardware, type Hardware } from '@vatline/core/image/hardware';
import { HardwareFields } from '../../src/images/hardware/hardware-fields.tsx';
import { SizingPanel } from '../../src/images/hardware/sizing-panel.tsx';
import type { useSizing } from '../../src/parts/use-sizing.ts';
import type { LinePlan } from '../../src/images/line-plan.ts';
import { choose, shown, type Answers } from './shown.tsx';

type Sizing = ReturnType<typeof useSizing>;
type Question = Parameters<typeof useSizing>[0];

/** What the worker would answer, which does not run here. */
const worker: { sizing: Sizing; asked: Question[] } = { sizing: nothingRead(), asked: [] };
function nothingRead(): Sizing {
  return { facts: undefined, faults: [], advice: undefined, busy: false, read: () => Promise.resolve() };
}
vi.mock('../../src/parts/use-sizing.ts', () => ({
  useSizing: (question: Question) => {
    worker.asked.push(question);
    return worker.sizing;
  },
}));

afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
  worker.sizing = nothingRead();
  worker.asked = [];
});

describe('fields', () => {
  function show(change: Partial<Hardware> = {}) {
    let now: Hardware = { ...leanHardware, ...change };
    function Kept() {
      const [own, setOwn] = useState(now);
      now = own;
      return <HardwareFields value={own} onChange={setOwn} />;
    }
    return { ...shown(<Kept />, {}), now: () => now };
  }
  const put = (label: string, text: string) =>
    fireEvent.change(screen.getByLabelText(label), { target: { value: text } });
  const faults = () => screen.queryAllByRole('alert').map((one) => one.textContent);

  it('are gigabytes here and bytes in the recipe; what cannot be is said at once', () => {
    const { now } = show();
    put('Memory, GB', '12.5');
    expect([now().memoryBytes, faults()]).toEqual([12.5e9, []]);
    put('Processors', '0');
    expect(faults()).toHaveLength(1);
  });

  it('keep devices of old machines in one order, whichever was chosen first', async () => {
    const view = show({ legacy: [] });
    const list = screen.getByRole('combobox', { name: 'Devices of old machines' });
    await view.user.click(list);
    const choices = await screen.findAllByText(/./, { selector: '.ant-select-item-option-content' });
    for (const choice of [...choices].reverse()) await view.user.click(choice);
    expect(view.now().legacy).toEqual(choices.map((one) => one.textContent));
  });

  it('disks come and go, but for the first, and at most eight', async () => {
    const { user, now } = show();
    expect(screen.queryByRole('button', { name: /^Take away/ })).toBeNull();
    const add = screen.getByRole('button', { name: 'Add a disk' }) as HTMLButtonElement;
    for (let i = 0; i < 7; i++) await user.click(add);
    expect([now().disks.length, add.disabled]).toEqual([8, true]);
    put('Size of disk 2, GB', '0');
    expect(faults()).toHaveLength(1);
    await user.click(screen.getByRole('button', { name: 'Take away disk 2' }));
    expect([now().disks.length, add.disabled, faults()]).toEqual([7, false, []]);
  });

  it('a disk may be thick', async () => {
    const view = show();
    await choose(view, 'Space of disk 1', 'thick');
    expect(view.now().disks[0]?.thin).toBe(false);
  });
});

describe('how large it should be', () => {
  const flat = { counts: [1, 2], top: 10 };
  const advice = (change: object = {}) =>
    ({
      processors: 8,
      memoryBytes: 26e9,
      demand: { cpu: 6.2, memoryBytes: 21e9 },
      sessionsHeld: 9,
      binds: 'processors',
      oversized: [],
      cpu: flat,
      memory: flat,
      ...change,
    }) as unknown as NonNullable<Sizing['advice']>;
  const facts = { rows: 12_096, users: 42, days: 1, name: 'use.csv' };
  function show(sizing: Partial<Sizing>, more: Answers = {}) {
    worker.sizing = { ...nothingRead(), ...sizing };
    const changed: unknown[] = [];
    const plan = {
      steps: ['step'],
      hardware: { ...leanHardware, processors: 4, memoryBytes: 16e9 },
      change: (steps: unknown, hardware: unknown) => changed.push([steps, hardware]),
    } as unknown as LinePlan;
    const view = shown(<SizingPanel line={{ id: 'l1' } as LineDetail} plan={plan} />, {
      'GET /pools': [
        { lineId: 'l1', name: 'desk-staff', sessionLimit: 12 },
        { lineId: 'l2', name: 'other', sessionLimit: 99 },
      ],
      ...more,
    });
    return { ...view, changed };
  }

  it('is asked for as many people as the pools of the line allow, until another number is given', async () => {
    show({ facts, advice: advice() });
    expect(await screen.findByText('as desk-staff allow')).toBeTruthy();
    expect(worker.asked.at(-1)).toMatchObject({ sessions: 12, baseMemoryBytes: 2.5e9, processors: 4 });
    fireEvent.change(screen.getByLabelText(/^People at once/), { target: { value: '20' } });
    fireEvent.change(screen.getByLabelText('Memory of the system, GB'), { target: { value: '4' } });
    expect(worker.asked.at(-1)).toMatchObject({ sessions: 20, baseMemoryBytes: 4e9 });
  });

  it('is said in one sentence, with what runs out first, and taken with one click', async () => {
    const { changed, user } = show({ facts, advice: advice() });
    await screen.findByText('as desk-staff allow');
    const said = screen.getByRole('status', { name: 'Advice on size' });
    expect(said.textContent).toContain('12 people need 8 processors and 26 GB.');
    expect(said.textContent).toContain('This machine holds 9 people; processors run out first.');
    expect(within(said).getByText('95 in 100 within 6.2, limit 3.2').className).toBe('trouble');
    await user.click(screen.getByText('Give it 8 processors and 26 GB'));
    expect(changed).toEqual([[['step'], { ...leanHardware, processors: 8, memoryBytes: 26e9 }]]);
  });

  it('of a machine that is much too large says by what', () => {
    show({ facts, advice: advice({ binds: 'neither', oversized: ['processors', 'memory'] }) });
    const said = screen.getByRole('status', { name: 'Advice on size' }).textContent;
    expect(said).toContain('nothing runs out');
    expect(said).toContain('over one and a half times the processors and the memory it needs');
  });

  it('of one that fits offers nothing', () => {
    show({ facts, advice: advice({ processors: 4, memoryBytes: 16e9 }) });
    expect(screen.queryByText(/^Give it/)).toBeNull();
  });

  it('a file goes to the worker as it is, and what is wrong with it is said by its line', async () => {
    const read: unknown[] = [];
    const faults = [{ path: 'line 3', message: 'has 3 columns where the header has 4' }];
    show({
      faults,
      read: (name, recording) => {
        read.push([name, recording instanceof File]);
        return Promise.resolve();
      },
    });
    fireEvent.change(screen.getByLabelText('Read a recording'), {
      target: { files: [new File(['x'], 'a.csv')] },
    });
    expect(read).toEqual([['a.csv', true]]);
    expect(screen.getByRole('alert').textContent).toBe(
      'The recording was not read:line 3: has 3 columns where the header has 4',
    );
    expect(screen.queryByLabelText(/^People at once/)).toBeNull();
  });

  it('the practice estate has a recording of its own', async () => {
    const read: unknown[] = [];
    const { user } = show(
      { read: (name, recording) => Promise.resolve(void read.push([name, recording])) },
      { 'GET /estate/assessment': { csv: 'user,time,cpu,memory\n' } },
    );
    await user.click(screen.getByText(/practice estate/));
    await vi.waitFor(() =>
      expect(read).toEqual([['measured by the practice estate', 'user,time,cpu,memory\n']]),
    );
  });
});
