import { describe, expect, it } from 'vitest';
import { driftKinds } from '@vatline/core/rollout/drift';
import {
  driftInWords,
  foundInWords,
  mendingInWords,
  poolInWords,
  whyNotMended,
} from '../src/rollouts/drift/drift-in-words.ts';

const zone = 'Europe/Dublin';
const nine = Date.UTC(2027, 2, 22, 9);
const pool = (hosts: number, drifted: number, lookedAt: number | null = nine) => ({
  hosts,
  drifted,
  lookedAt,
});

describe('drift in words', () => {
  it('says how many of all, or since when none', () => {
    expect(driftInWords([pool(24, 2), pool(8, 1)], zone)).toBe(
      '3 of 32 hosts are not what their blends say.',
    );
    expect(driftInWords([pool(24, 1)], zone)).toBe('1 of 24 hosts is not what its blend says.');
    expect(driftInWords([pool(24, 0), pool(8, 0, nine + 3_600_000)], zone)).toBe(
      'All 32 hosts are what their blends say, as of 09:00.',
    );
    expect(driftInWords([pool(1, 0)], zone)).toBe('The host is what its blend says, as of 09:00.');
  });

  it('does not call well what nobody has looked at', () => {
    expect(driftInWords([pool(24, 0, null)], zone)).toBe('Nobody has looked yet what the hosts really have.');
    expect(poolInWords(pool(24, 0, null))).toBe('not known');
    expect(poolInWords(pool(24, 0))).toBe('as it should be');
    expect(poolInWords(pool(24, 3))).toBe('3 of 24');
    expect(driftInWords([pool(0, 0)], zone)).toBe('There are no hosts yet.');
  });

  it('says of every kind what it is, and names containers', () => {
    const said = driftKinds.map((kind) => foundInWords({ kind, what: 'Pellam Reader 9.0' }));
    expect(new Set(said).size).toBe(driftKinds.length);
    expect(said).toContain('lacks Pellam Reader 9.0');
    expect(mendingInWords({ mending: 'attach only' })).toBe('attach anew; nobody has to leave');
  });

  it('says why those that are chosen cannot be mended at once', () => {
    const blend = {
      id: 'b1',
      number: 1,
      dye: 'indigo',
      imageVersionId: 'v',
      imageNumber: 15,
      lineId: 'l',
    } as const;
    const one = { poolId: 'a', mending: 'rebuild', blend } as const;
    expect(whyNotMended([])).toBe('choose the hosts to mend');
    expect(whyNotMended([one, { ...one, poolId: 'b' }])).toMatch(/one pool/);
    expect(whyNotMended([one, { ...one, mending: 'by hand' }])).toMatch(/no rollout reaches/);
    expect(whyNotMended([one, { ...one, blend: { ...blend, id: 'b2' } }])).toMatch(/different blends/);
    expect(whyNotMended([one, one])).toBeUndefined();
  });
});
