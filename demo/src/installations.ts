/** Applications that agents of hosts install, since no container suits them or other hosts need them on disk. */
import type { Installation } from '@vatline/core/installed/installation';

export const installations: readonly ({ readonly installer: string } & Partial<Installation>)[] = [
  {
    installer: 'lanrick-4.0',
    hosts: 'WCL-DG-*, WCL-PB-*',
    dependencies: [{ name: 'Quaybolt Runtime', range: '>=5.0 <6' }],
    notification: 'Lanrick Ledger will be there tomorrow morning.',
  },
  { installer: 'quaybolt-5.2', hosts: 'WCL-DG-*, WCL-PB-*, WCL-DS-*' },
];
