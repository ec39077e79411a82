/** What home looks at, over all stations. */
import type { CutSchedules } from '../image/cut-schedules.ts';
import type { ImageStore } from '../image/store.ts';
import type { CertificateStore } from '../package/certificates.ts';
import type { PackageStore } from '../package/store.ts';
import type { PoolStore } from '../pool/pools.ts';
import type { StagedPresenter } from '../rollout/rings/present.ts';
import type { RecurringRollouts } from '../rollout/recurring/recurring.ts';
import type { RolloutStore } from '../rollout/store.ts';

export interface Stores {
  readonly images: ImageStore;
  readonly packages: PackageStore;
  readonly pools: PoolStore;
  readonly rollouts: RolloutStore;
  readonly stagedPresenter: Pick<StagedPresenter, 'list' | 'ahead'>;
  readonly schedules: CutSchedules;
  readonly recurring: Pick<RecurringRollouts, 'ahead'>;
  readonly certificates: Pick<CertificateStore, 'keyFault'>;
}
