/** The grid of hosts by hand: keys lead from cell to cell, and the one that is meant says what it is. */
import { cleanup, fireEvent, screen } from '@testing-library/react';
import { afterEach, beforeEach, expect, it, vi } from 'vitest';
import type { GridCell } from '../../src/parts/host-grid-drawing.ts';
import { HostGrid } from '../../src/parts/host-grid.tsx';
import { shown } from './shown.tsx';

/** Four cells of 16 and their gaps. */
const WIDTH = 4 * 18;

beforeEach(() => {
  vi.spyOn(HTMLElement.prototype, 'clientWidth', 'get').mockReturnValue(WIDTH);
});
afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  vi.unstubAllGlobals();
});

const cell = (n: number, change: Partial<GridCell> = {}): GridCell => ({
  id: `h${n}`,
  name: `WCL-DS-${String(n).padStart(2, '0')}`,
  dye: 'woad',
  next: null,
  state: 'in service',
  ...change,
});

function show(cells: GridCell[]) {
  const opened: string[] = [];
  const view = shown(
    <HostGrid cells={cells} label="desk-staff: 10 hosts" onOpen={(one) => opened.push(one.name)} />,
    {},
  );
  const grid = screen.getByRole('img', { name: 'desk-staff: 10 hosts' });
  const press = (...keys: string[]) => keys.forEach((key) => fireEvent.keyDown(grid, { key }));
  const tip = () => document.querySelector('.host-tip')?.textContent;
  const scroller = grid.querySelector('.host-grid-scroll') as HTMLElement;
  return { ...view, opened, grid, press, tip, scroller };
}
const ten = () => Array.from({ length: 10 }, (_, i) => cell(i + 1));

it('is walked by arrows, and Enter opens the host that is meant', () => {
  const { press, tip, opened } = show(ten());
  press('Enter');
  expect([opened, tip()]).toEqual([[], undefined]);
  press('ArrowRight');
  expect(tip()).toBe('WCL-DS-01: in service, runs Wo');
  press('ArrowRight', 'ArrowDown');
  expect(tip()).toMatch(/^WCL-DS-06/);
  press('End', 'ArrowRight');
  expect(tip()).toMatch(/^WCL-DS-10/);
  press('Home', 'ArrowUp', 'Enter');
  expect(opened).toEqual(['WCL-DS-01']);
});

it('says what a host is to run only where that is another one', () => {
  const { press, tip } = show([
    cell(1, { state: 'draining', next: 'madder' }),
    cell(2, { next: 'woad' }),
    cell(3, { state: 'failed' }),
  ]);
  press('Home');
  expect(tip()).toBe('WCL-DS-01: draining, runs Wo, to run Ma');
  press('ArrowRight');
  expect(tip()).toBe('WCL-DS-02: in service, runs Wo');
  press('ArrowRight');
  expect(tip()).toBe('WCL-DS-03: failed, runs Wo');
});

it('forgets who was meant when it is left', () => {
  const { press, tip, grid } = show(ten());
  press('Home');
  fireEvent.blur(grid);
  expect(tip()).toBeUndefined();
});

it('takes a click for the host that lies there, and none for a gap', () => {
  const { scroller, opened, tip } = show(ten());
  fireEvent.mouseMove(scroller, { clientX: 20, clientY: 20 });
  expect(tip()).toMatch(/^WCL-DS-06/);
  fireEvent.click(scroller, { clientX: 20, clientY: 20 });
  fireEvent.click(scroller, { clientX: 17, clientY: 20 });
  fireEvent.click(scroller, { clientX: 60, clientY: 40 });
  expect(opened).toEqual(['WCL-DS-06']);
  fireEvent.mouseLeave(scroller);
  expect(tip()).toBeUndefined();
});

it('scrolls to the host that keys lead to', () => {
  const { press, scroller } = show(Array.from({ length: 400 }, (_, i) => cell(i + 1)));
  press('End');
  // 100 rows of 18, of which 400 are seen.
  expect(scroller.scrollTop).toBe(1400);
  press('Home');
  expect(scroller.scrollTop).toBe(0);
});
