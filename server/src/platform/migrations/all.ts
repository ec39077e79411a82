/** Every migration in order. Forward only: a mistake is mended by the next one. */
import type { Migration } from 'kysely';
import { first } from './0001-first.ts';
import { hostCounts } from './0002-host-counts.ts';
import { disks } from './0003-disks.ts';
import { checksOff } from './0004-checks-off.ts';
import { cutSchedules } from './0005-cut-schedules.ts';
import { imageDepth } from './0006-image-depth.ts';
import { packagesDepth } from './0007-packages-depth.ts';
import { captureDepth } from './0008-capture-depth.ts';
import { versionsAndHosts } from './0009-versions-and-hosts.ts';
import { installed } from './0010-installed.ts';
import { optionSheets } from './0011-option-sheets.ts';
import { bulk } from './0012-bulk.ts';
import { safeGround } from './0013-safe-ground.ts';
import { states } from './0014-states.ts';
import { whoActs } from './0015-who-acts.ts';
import { readyForKinds } from './0016-ready-for-kinds.ts';
import { poolDepth } from './0017-pool-depth.ts';
import { readinessRules } from './0018-readiness.ts';
import { planRevisions } from './0019-plan-revisions.ts';
import { rings } from './0020-rings.ts';
import { hostWays } from './0021-host-ways.ts';
import { promises } from './0022-promises.ts';
import { hostDrift } from './0023-host-drift.ts';
import { promisedProgress } from './0024-promised-progress.ts';
import { keptPlans } from './0025-kept-plans.ts';
import { notices } from './0026-notices.ts';
import { recurring } from './0027-recurring.ts';

export const migrations: Record<string, Migration> = {
  '0001-first': first,
  '0002-host-counts': hostCounts,
  '0003-disks': disks,
  '0004-checks-off': checksOff,
  '0005-cut-schedules': cutSchedules,
  '0006-image-depth': imageDepth,
  '0007-packages-depth': packagesDepth,
  '0008-capture-depth': captureDepth,
  '0009-versions-and-hosts': versionsAndHosts,
  '0010-installed': installed,
  '0011-option-sheets': optionSheets,
  '0012-bulk': bulk,
  '0013-safe-ground': safeGround,
  '0014-states': states,
  '0015-who-acts': whoActs,
  '0016-ready-for-kinds': readyForKinds,
  '0017-pool-depth': poolDepth,
  '0018-readiness': readinessRules,
  '0019-plan-revisions': planRevisions,
  '0020-rings': rings,
  '0021-host-ways': hostWays,
  '0022-promises': promises,
  '0023-host-drift': hostDrift,
  '0024-promised-progress': promisedProgress,
  '0025-kept-plans': keptPlans,
  '0026-notices': notices,
  '0027-recurring': recurring,
};
