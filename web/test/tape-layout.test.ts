/** Where items of the tape and their words stand. */
import * as fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { layOutTape, TAPE_ROWS } from '../src/parts/tape-layout.ts';

const HOUR = 3_600_000;
/** Ten pixels an hour over two days, midnight in the middle. */
const strip = { from: 0, to: 48 * HOUR, width: 480, lines: [24 * HOUR] };
const item = (label: string, start: number, end = start) => ({
  id: label,
  label,
  start: start * HOUR,
  end: end * HOUR,
});
/** Ten letters take 64 pixels. */
const only = (start: number, end = start) => layOutTape([item('Ten letter', start, end)], strip)[0];

describe('the words of an item', () => {
  it('stand behind its bar', () =>
    expect(only(2, 6)).toMatchObject({ row: 0, left: 20, width: 40, label: { left: 65, width: 64 } }));

  it('stand before it where the line of the next day is too near', () =>
    expect(only(20, 22)).toMatchObject({ left: 200, width: 20, label: { left: 131, width: 64 } }));

  it('stand before it at the edge', () => expect(only(44, 48)?.label).toEqual({ left: 371, width: 64 }));

  it('stand behind a bar that itself reaches over the line', () =>
    expect(only(20, 30)?.label).toEqual({ left: 305, width: 64 }));

  it('are shortened to the larger room where there is too little on both sides', () => {
    const [placed] = layOutTape([item('A name of twenty-nine letters', 10, 15)], strip);
    // Behind, up to the line, there are 85 pixels; before it, up to the edge, 90.
    expect(placed?.label).toEqual({ left: 5, width: 90 });
  });

  it('are left out where five letters do not fit, and the bar stays', () => {
    const [first, second] = layOutTape(
      [item('Ten letter', 1, 14), { ...item('Ten letter', 20, 22), id: 'second' }],
      { ...strip, lines: [18 * HOUR, 24 * HOUR] },
    );
    expect(first?.label).toBeUndefined();
    expect(second).toMatchObject({ left: 200, width: 20, label: undefined });
  });

  it('do not stand before a bar on those of the one before it, but on the next row', () => {
    const placed = layOutTape([item('Ten letter', 2, 6), item('Ten lettir', 20, 22)], strip);
    expect(placed.map(({ row, label }) => [row, label])).toEqual([
      [0, { left: 65, width: 64 }],
      [1, { left: 131, width: 64 }],
    ]);
  });
});

describe('items', () => {
  it('that would lie on one another take rows of their own, and a fourth is left out', () => {
    const same = ['one', 'two', 'three', 'four'].map((label) => item(label, 3, 9));
    expect(layOutTape(same, strip).map(({ item: { label }, row }) => [label, row])).toEqual([
      ['one', 0],
      ['two', 1],
      ['three', 2],
    ]);
  });

  it('that began before the strip or end behind it are drawn up to its edges', () =>
    expect(layOutTape([item('long', -5, 60)], strip)[0]).toMatchObject({ left: 0, width: 480 }));

  it('never lie on one another, nor their words on a line or beyond the strip', () => {
    const any = fc.record({
      id: fc.uuid(),
      label: fc.string({ maxLength: 30 }),
      start: fc.integer({ min: -20, max: 167 }),
      length: fc.nat(40),
    });
    const lines = [24, 48, 72, 96, 120, 144];
    const property = fc.property(
      fc.array(any, { maxLength: 30 }),
      fc.integer({ min: 300, max: 2_000 }),
      (list, width) => {
        const spans = list.map((row) => ({
          ...row,
          start: row.start * HOUR,
          end: (row.start + row.length) * HOUR,
        }));
        const to = 168 * HOUR;
        const placed = layOutTape(spans, { from: 0, to, width, lines: lines.map((at) => at * HOUR) });
        const spread = placed.map(({ row, left, width: bar, label }) => ({
          row,
          from: Math.min(left, label?.left ?? left),
          to: Math.max(left + bar, label ? label.left + label.width : 0),
        }));
        for (const [i, a] of spread.entries()) {
          expect(a.row).toBeLessThan(TAPE_ROWS);
          expect(a.from).toBeGreaterThanOrEqual(0);
          expect(a.to).toBeLessThanOrEqual(width + 1e-6);
          for (const b of spread.slice(i + 1))
            if (a.row === b.row) expect(b.from >= a.to || a.from >= b.to).toBe(true);
        }
        for (const { label } of placed)
          for (const at of lines.map((hour) => (hour * HOUR * width) / to))
            if (label) expect(at > label.left + 1e-6 && at < label.left + label.width - 1e-6).toBe(false);
      },
    );
    fc.assert(property);
  });
});
