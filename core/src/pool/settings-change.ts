/** Changing what a pool is, once it has hosts: what reaches whom, and what cannot be changed any more. */
import type { Fault } from '../result.ts';

/** `at once`: people and hosts that are there. `new hosts`: only those made from then on, or made anew. */
export const settingReaches = ['at once', 'new hosts', 'never'] as const;
export type SettingReach = (typeof settingReaches)[number];

/** How far a change of each setting reaches; `never` while there are hosts. */
export const reachOf = {
  title: 'at once',
  description: 'at once',
  tags: 'at once',
  sessionLimit: 'at once',
  idleMinutes: 'at once',
  disconnectMinutes: 'at once',
  mayRestart: 'at once',
  zone: 'at once',
  size: 'new hosts',
  signOut: 'new hosts',
  dataGigabytes: 'new hosts',
  scratchGigabytes: 'new hosts',
  days: 'new hosts',
  joinAccount: 'new hosts',
  licence: 'new hosts',
  afterMaking: 'new hosts',
  isHeld: 'new hosts',
  kind: 'never',
  clone: 'never',
  store: 'never',
  chassis: 'never',
} as const satisfies Record<string, SettingReach>;

export type PoolSetting = keyof typeof reachOf;
export type SettingValues = Readonly<Partial<Record<PoolSetting, unknown>>>;

export interface SettingChange {
  readonly setting: PoolSetting;
  readonly reach: SettingReach;
}

/** Settings that differ, in the order above; one that `after` leaves out stays. */
export function settingChanges(before: SettingValues, after: SettingValues): SettingChange[] {
  return (Object.keys(reachOf) as PoolSetting[])
    .filter((setting) => after[setting] !== undefined && !isSame(before[setting], after[setting]))
    .map((setting) => ({ setting, reach: reachOf[setting] }));
}

const words: Partial<Record<PoolSetting, string>> = {
  kind: 'for whom its hosts are',
  clone: 'how its hosts have their disks',
  store: 'the store that its hosts stream from',
  chassis: 'the chassis that its hosts stand in',
};

/** What stands in the way, at the setting. */
export function settingFaults(changes: readonly SettingChange[], hosts: number): Fault[] {
  return changes
    .filter((change) => change.reach === 'never' && hosts > 0)
    .map(({ setting }) => ({
      path: setting,
      message: `${words[setting] ?? setting} cannot be changed while it has hosts; make another pool beside it`,
    }));
}

function isSame(a: unknown, b: unknown): boolean {
  return JSON.stringify(a) === JSON.stringify(b);
}
