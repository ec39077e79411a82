import { describe, expect, it } from 'vitest';
import { attachCost } from '../src/package/attach-cost.ts';
import { rightsFaults } from '../src/package/share-rights.ts';

describe('what attaching a container costs', () => {
  it('is worked out from its size: 12 reads, and one for each 400 kB begun', () => {
    // 12 + 3 reads of 3.2 ms each; two entry points of 35 ms.
    expect(attachCost(1_000_000, 2, null)).toEqual({ operations: 15, mountMs: 48, registerMs: 70 });
    expect(attachCost(0, 0, null)).toEqual({ operations: 12, mountMs: 38, registerMs: 0 });
  });
  it('is as it was measured, where it was', () => {
    const measured = { operations: 20, mountMs: 61, registerMs: 31, host: 'WCL-PB-01' };
    expect(attachCost(9e9, 40, measured)).toEqual({ operations: 20, mountMs: 61, registerMs: 31 });
  });
});

describe('rights on a share', () => {
  it('are right when hosts read, packagers write and people do nothing', () =>
    expect(rightsFaults({ hosts: 'read', packagers: 'write', users: 'nothing' })).toEqual([]));
  it('say everything that is wrong, worst first', () => {
    expect(rightsFaults({ hosts: 'nothing', packagers: 'read', users: 'write' })).toEqual([
      'hosts may not read it, so nothing on it can be attached',
      'packagers may not write to it, so nothing can be uploaded',
      'people may write it, though only hosts have to',
    ]);
    expect(rightsFaults({ hosts: 'write', packagers: 'write', users: 'nothing' })).toEqual([
      'hosts may write to it: one that is taken over changes what all others run',
    ]);
  });
});
