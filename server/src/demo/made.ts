/** What filling the demo works with: the stores it fills, and what is there already. */
import type { ImageStore } from '../image/store.ts';
import type { InstallationStore } from '../installed/store.ts';
import type { CertificateStore } from '../package/certificates.ts';
import type { PackageStore } from '../package/store.ts';
import type { JoinAccounts } from '../directory/join-accounts.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { Plans } from '../rollout/plans.ts';
import type { RingOrders } from '../rollout/rings/orders.ts';

export interface Stores {
  readonly certificates: CertificateStore;
  readonly ringOrders: RingOrders;
  readonly joinAccounts: JoinAccounts;
  readonly images: ImageStore;
  readonly packages: PackageStore;
  readonly pools: PoolStore;
  readonly plans: Plans;
  readonly installations: InstallationStore;
}

/** Version ids by line key and number, and by package name and version. */
export interface Made {
  readonly versions: Map<string, { id: string; imageId: string }>;
  readonly lines: Map<string, string>;
  readonly containers: Map<string, string>;
  readonly packages: Map<string, string>;
  readonly pools: Map<string, string>;
}
