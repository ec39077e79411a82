import { describe, expect, it } from 'vitest';
import { reachOf, settingChanges, settingFaults, type SettingValues } from '../src/pool/settings-change.ts';

const before: SettingValues = {
  title: 'Desks',
  tags: ['a'],
  idleMinutes: null,
  size: 'desk-2',
  clone: 'linked',
};
const changes = (after: SettingValues) => settingChanges(before, after);

describe('a change of a pool’s settings', () => {
  it('tells what differs and how far it reaches, and nothing of what stays', () => {
    expect(changes({ ...before, tags: ['a'] })).toEqual([]);
    expect(changes({ idleMinutes: 30, size: 'desk-4', tags: ['a', 'b'], title: 'Desks' })).toEqual([
      { setting: 'tags', reach: 'at once' },
      { setting: 'idleMinutes', reach: 'at once' },
      { setting: 'size', reach: 'new hosts' },
    ]);
  });
  it('cannot be one of how hosts have their disks, while there are any', () => {
    const after = changes({ clone: 'full' });
    expect(settingFaults(after, 24)).toEqual([
      {
        path: 'clone',
        message:
          'how its hosts have their disks cannot be changed while it has hosts; make another pool beside it',
      },
    ]);
    expect(settingFaults(after, 0)).toEqual([]);
    expect(settingFaults(changes({ size: 'desk-4', title: 'New' }), 24)).toEqual([]);
  });
  it('knows of every setting how far it reaches', () =>
    expect(Object.values(reachOf).every((reach) => ['at once', 'new hosts', 'never'].includes(reach))).toBe(
      true,
    ));
});
