/** The API: the endpoints of all features behind one door. */
import { accessRoutes } from './access/routes.ts';
import { aheadRoutes } from './ahead/routes.ts';
import { bulkRoutes } from './bulk/routes.ts';
import { calendarRoutes } from './calendar/routes.ts';
import { clockRoutes } from './estate-station/clock-routes.ts';
import { quotaRoutes } from './estate-station/quota.ts';
import { siteRoutes } from './estate-station/sites.ts';
import { estateRoutes } from './estate-station/routes.ts';
import { firstDesktopsRoutes } from './first-desktops/routes.ts';
import { homeRoutes } from './home/routes.ts';
import { deltaRoutes } from './image/delta-job.ts';
import { fragmentRoutes } from './image/fragment-routes.ts';
import { handWorkRoutes } from './image/hand-work.ts';
import { importRoutes } from './image/import-version.ts';
import { inventoryRoutes } from './image/inventories.ts';
import { materialRoutes } from './image/materials.ts';
import { lineRoutes } from './image/line-routes.ts';
import { machineRoutes } from './image/machine-routes.ts';
import { versionRoutes as imageVersionRoutes } from './image/version-routes.ts';
import { installationRoutes } from './installed/routes.ts';
import { optionSheetRoutes } from './option-sheet/routes.ts';
import { plannedRoutes } from './planned/routes.ts';
import { captureRoutes } from './package/capture-routes.ts';
import { contentRoutes } from './package/content-routes.ts';
import { certificateRoutes } from './package/certificate-routes.ts';
import { libraryRoutes } from './package/library-routes.ts';
import { packageRoutes } from './package/routes.ts';
import { ruleRoutes } from './package/rule-routes.ts';
import { shareRoutes } from './package/share-routes.ts';
import { versionRoutes } from './package/version-routes.ts';
import type { Door } from './platform/door.ts';
import { jobRoutes } from './platform/jobs/routes.ts';
import type { Parts } from './platform/parts.ts';
import { directoryFileRoutes } from './directory/file-routes.ts';
import { directoryRoutes } from './directory/routes.ts';
import { datastoreRoutes } from './pool/datastores.ts';
import { hostActionRoutes } from './pool/host-actions.ts';
import { poolHealthRoute } from './pool/health.ts';
import { hostCsvRoute } from './pool/host-csv.ts';
import { keptCopyRoutes } from './pool/kept-copies.ts';
import { hostRoutes } from './pool/host-routes.ts';
import { poolRoutes } from './pool/routes.ts';
import { readinessRoutes } from './readiness/routes.ts';
import { chassisRoutes } from './chassis/routes.ts';
import { streamingRoutes } from './streaming/routes.ts';
import { driftRoutes } from './rollout/drift/routes.ts';
import { blendRoutes } from './rollout/blends/routes.ts';
import { ringRoutes } from './rollout/rings/routes.ts';
import { promiseRoutes } from './rollout/promises.ts';
import { progressRoutes } from './rollout/progress.ts';
import { keptPlanRoutes } from './rollout/kept-plans.ts';
import { recurringRoutes } from './rollout/recurring/routes.ts';
import { recordRoutes } from './rollout/record.ts';
import { rolloutRoutes } from './rollout/routes.ts';
import { calendarUse, keptToLater } from './rollout/calendar-use.ts';
import type { RolloutStore } from './rollout/store.ts';
import type { AllStores } from './all-stores.ts';

/** Every endpoint of every station. */
export function allRoutes(door: Door, parts: Parts, stores: AllStores): void {
  imageStation(door, parts, stores);
  packageStation(door, parts, stores);
  hostStations(door, parts, stores);
  homeRoutes(door, parts, stores);
  plannedRoutes(door, parts, stores);
  aheadRoutes(door, parts, stores);
  estateRoutes(door, parts, stores.pools);
  quotaRoutes(door, parts);
  siteRoutes(door, parts, stores.pools);
  clockRoutes(door, parts, () => endOfWindow(stores.rollouts));
  jobRoutes(door, parts.jobs);
}

function imageStation(door: Door, parts: Parts, { images, schedules }: AllStores): void {
  lineRoutes(door, parts, images);
  machineRoutes(door, parts, images);
  imageVersionRoutes(door, parts, images, schedules);
  inventoryRoutes(door, parts, images);
  fragmentRoutes(door, parts, images);
  handWorkRoutes(door, parts, images);
  importRoutes(door, parts, images);
  deltaRoutes(door, parts, images);
  materialRoutes(door, parts, images);
}

function packageStation(door: Door, parts: Parts, stores: AllStores): void {
  const { packages, certificates, installations } = stores;
  packageRoutes(door, parts, packages);
  captureRoutes(door, parts, packages);
  ruleRoutes(door, parts, packages);
  libraryRoutes(door, parts, packages);
  shareRoutes(door, parts, packages);
  optionSheetRoutes(door, parts);
  bulkRoutes(door, parts);
  installationRoutes(door, parts, installations);
  versionRoutes(door, parts, packages, certificates);
  contentRoutes(door, packages);
  certificateRoutes(door, parts, certificates);
}

/** Pools, rollouts and access: what hosts are, become, and whom they are for. */
function hostStations(door: Door, parts: Parts, stores: AllStores): void {
  const { pools, plans, rollouts, engine, calendars, joinAccounts } = stores;
  poolRoutes(door, parts, stores);
  firstDesktopsRoutes(door, parts, stores);
  readinessRoutes(door, parts, stores);
  streamingRoutes(door, parts, stores);
  chassisRoutes(door, parts);
  hostActionRoutes(door, parts, pools);
  keptCopyRoutes(door, parts, pools);
  hostCsvRoute(door, parts, pools);
  poolHealthRoute(door, parts, pools);
  datastoreRoutes(door, parts, pools);
  directoryRoutes(door, parts, joinAccounts);
  directoryFileRoutes(door, parts);
  hostRoutes(door, parts, pools);
  rolloutRoutes(door, parts, plans, rollouts, engine);
  blendRoutes(door, parts, plans, stores.packages);
  driftRoutes(door, parts, pools, stores.driftLook);
  keptPlanRoutes(door, parts, pools);
  recurringRoutes(door, stores.recurring);
  promiseRoutes(door, parts);
  recordRoutes(door, parts, plans, rollouts);
  progressRoutes(door, parts, plans, rollouts);
  ringRoutes(door, parts, {
    orders: stores.ringOrders,
    planner: stores.ringPlanner,
    staged: stores.staged,
    presenter: stores.stagedPresenter,
  });
  calendarRoutes(door, parts, calendars, {
    use: () => calendarUse(parts),
    later: (id) => keptToLater(parts, id),
    lookAgain: (id) => engine.advance(id),
  });
  accessRoutes(door, parts);
}

/** The end of the window that is open or comes first, over all open rollouts. */
async function endOfWindow(rollouts: RolloutStore): Promise<number | null> {
  const windows = (await rollouts.list()).flatMap((rollout) =>
    rollout.endedAt === null && rollout.nextWindow ? [rollout.nextWindow] : [],
  );
  const first = windows.sort((a, b) => a.start - b.start)[0];
  return first ? first.end : null;
}
