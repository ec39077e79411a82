/** What settings are called where what they change is listed. */
import type { PoolSetting } from '@vatline/core/pool/settings-change';

export const settingWords: Record<PoolSetting, string> = {
  title: 'the name that people see',
  description: 'the description',
  tags: 'the tags',
  sessionLimit: 'sessions a host',
  idleMinutes: 'the idle limit',
  disconnectMinutes: 'the disconnect limit',
  mayRestart: 'whether people may restart their host',
  zone: 'the time zone',
  size: 'the machine size',
  signOut: 'what becomes of what was written at sign-out',
  dataGigabytes: 'the personal data disk',
  scratchGigabytes: 'the scratch disk',
  days: 'days between rebuilds',
  joinAccount: 'the account that joins',
  licence: 'the licence of the system',
  afterMaking: 'the script after making',
  isHeld: 'whether new hosts are held back',
  kind: 'for whom hosts are',
  clone: 'how hosts have their disks',
  store: 'the streaming store',
  chassis: 'the chassis',
};
