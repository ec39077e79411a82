import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { compareVersions } from '../src/image/compare-versions.ts';
import { differingLines, readDiffering } from '../src/inventory/differing-lines.ts';
import { inventoryHeader, parseInventory, writeInventory } from '../src/inventory/text.ts';
import type { Entry } from '../src/inventory/entry.ts';
import { must } from '../src/result.ts';

const header = inventoryHeader('machine', 0, false);
const driver = (name: string, version: string): Entry => ({ kind: 'driver', name, version });
const value = (name: string, text: string): Entry => ({
  kind: 'registry',
  key: 'K',
  name,
  type: 'REG_SZ',
  value: text,
});
const text = (...entries: Entry[]) => writeInventory(header, entries);
const between = (before: string, after: string) => must(readDiffering(must(differingLines(before, after))));

describe('lines that differ between two inventories', () => {
  it('are those that one has alone; what both have is only counted', () => {
    const before = text(driver('a', '1'), driver('b', '1'), value('x', '1'), value('y', '1'));
    const after = text(driver('a', '1'), driver('b', '2'), value('x', '1'), value('z', '1'));
    expect(must(differingLines(before, after)).same).toEqual({ driver: 1, registry: 1 });
    expect(between(before, after)).toEqual({
      before: [driver('b', '1'), value('y', '1')],
      after: [driver('b', '2'), value('z', '1')],
      same: new Map([
        ['driver', 1],
        ['registry', 1],
      ]),
    });
  });

  it('an empty text is an empty inventory', () => {
    expect(between('', text(driver('a', '1'))).after).toEqual([driver('a', '1')]);
    expect(between(text(driver('a', '1')), '').before).toEqual([driver('a', '1')]);
  });

  it('in another form than ours are known by reading them', () => {
    const odd = `${JSON.stringify(header)}\n{ "name": "a", "kind": "driver", "version": "1" }\n`;
    expect(must(differingLines(odd, odd)).same).toEqual({ driver: 1 });
  });

  it('that are bad are named, and so is a text that is no inventory', () => {
    const lines = must(differingLines(text(), `${text(driver('a', '1'))}{"kind":"thing"}\n`));
    expect(readDiffering(lines)).toMatchObject({ ok: false, error: [{ path: 'line 2' }] });
    expect(differingLines('no header', '')).toMatchObject({ ok: false, error: [{ path: 'line 1' }] });
  });

  it('give the comparison that both inventories whole give', () => {
    const entries = fc.uniqueArray(
      fc.record({ name: fc.stringMatching(/^[a-e]{1,2}$/), text: fc.constantFrom('1', '2') }),
      { selector: (row) => row.name },
    );
    fc.assert(
      fc.property(entries, entries, (a, b) => {
        const [before, after] = [a, b].map((list) =>
          text(...list.map((row) => value(row.name, row.text))),
        ) as [string, string];
        const { same, ...rest } = between(before, after);
        expect(compareVersions(rest.before, rest.after, same)).toEqual(
          compareVersions(must(parseInventory(before)).entries, must(parseInventory(after)).entries),
        );
      }),
    );
  });
});
