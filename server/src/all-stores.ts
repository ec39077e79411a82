/** The stores of all features, and the jobs that stand on them. */
import { bulkJob } from './bulk/job.ts';
import { CalendarStore } from './calendar/store.ts';
import { CutSchedules } from './image/cut-schedules.ts';
import { quotaRequests } from './estate-station/quota.ts';
import { siteRequests } from './estate-station/sites.ts';
import { imageJobs } from './image/jobs.ts';
import { ImageStore } from './image/store.ts';
import { firstDesktopsJob } from './first-desktops/job.ts';
import { installJob } from './installed/install-job.ts';
import { removeJob } from './installed/remove-job.ts';
import { InstallationStore } from './installed/store.ts';
import { packageJobs } from './package/jobs.ts';
import { CertificateStore } from './package/certificates.ts';
import { PackageStore } from './package/store.ts';
import type { Parts } from './platform/parts.ts';
import { Sealer } from './platform/sealed.ts';
import { actJob } from './pool/act-job.ts';
import { HostAdditions } from './pool/add-hosts.ts';
import { PoolCreation } from './pool/create.ts';
import { poolJobs } from './pool/jobs.ts';
import { Keeper } from './readiness/keeper.ts';
import { ReadinessStore } from './readiness/store.ts';
import { Switches } from './streaming/switches.ts';
import { JoinAccounts } from './directory/join-accounts.ts';
import { PoolStore } from './pool/pools.ts';
import { DriftLook } from './rollout/drift/look.ts';
import { RolloutEngine } from './rollout/engine.ts';
import { HostWork } from './rollout/host-work.ts';
import { Notices } from './rollout/notices.ts';
import { Plans } from './rollout/plans.ts';
import { RecurringRollouts } from './rollout/recurring/recurring.ts';
import { Following } from './rollout/rings/following.ts';
import { RingOrders } from './rollout/rings/orders.ts';
import { RingPlanner } from './rollout/rings/planner.ts';
import { StagedPresenter } from './rollout/rings/present.ts';
import { StagedRollouts } from './rollout/rings/staged.ts';
import { StagedStore } from './rollout/rings/staged-store.ts';
import { RolloutStore } from './rollout/store.ts';

/** Everything that knows its part of the database, and what works on it. */
export interface AllStores {
  readonly images: ImageStore;
  readonly packages: PackageStore;
  readonly certificates: CertificateStore;
  readonly joinAccounts: JoinAccounts;
  readonly installations: InstallationStore;
  readonly pools: PoolStore;
  readonly readiness: ReadinessStore;
  readonly creation: PoolCreation;
  readonly additions: HostAdditions;
  readonly keeper: Keeper;
  readonly switches: Switches;
  readonly calendars: CalendarStore;
  readonly plans: Plans;
  readonly rollouts: RolloutStore;
  readonly engine: RolloutEngine;
  readonly driftLook: DriftLook;
  readonly ringOrders: RingOrders;
  readonly ringPlanner: RingPlanner;
  readonly stagedPresenter: StagedPresenter;
  readonly stagedStore: StagedStore;
  readonly staged: StagedRollouts;
  readonly schedules: CutSchedules;
  readonly recurring: RecurringRollouts;
}

export async function openStores(parts: Parts): Promise<AllStores> {
  const sealer = await openSealer(parts);
  if (sealer.fault !== '')
    parts.log.error(`no certificate can sign and no account can join: ${sealer.fault}`);
  const certificates = new CertificateStore(parts, sealer);
  const images = new ImageStore(parts);
  const pools = new PoolStore(parts);
  const joinAccounts = new JoinAccounts(parts, sealer);
  const readiness = new ReadinessStore(parts, pools);
  const additions = new HostAdditions(parts, pools, joinAccounts);
  const calendars = new CalendarStore(parts);
  const plans = new Plans(parts, pools, calendars);
  const rollouts = new RolloutStore(parts, plans);
  const notices = new Notices(parts, pools, rollouts);
  const work = new HostWork(parts, pools, rollouts, notices);
  const engine = new RolloutEngine(parts, plans, rollouts, work, notices);
  const ringOrders = new RingOrders(parts, plans);
  const ringPlanner = new RingPlanner(parts, plans);
  const stagedStore = new StagedStore(parts, plans, rollouts);
  const staged = new StagedRollouts(parts, ringPlanner, stagedStore, ringOrders, engine);
  return {
    images,
    packages: new PackageStore(parts),
    certificates,
    joinAccounts,
    installations: new InstallationStore(parts),
    pools,
    readiness,
    creation: new PoolCreation(parts, joinAccounts),
    additions,
    keeper: new Keeper(parts, pools, readiness, additions),
    switches: new Switches(parts, pools),
    calendars,
    plans,
    rollouts,
    engine,
    driftLook: new DriftLook(parts, pools),
    ringOrders,
    ringPlanner,
    stagedPresenter: new StagedPresenter(parts, ringPlanner, stagedStore, rollouts),
    stagedStore,
    staged,
    schedules: new CutSchedules(parts, images, new Following(parts, plans, staged)),
    recurring: new RecurringRollouts(parts, plans, engine),
  };
}

/** One key for all secrets; whatever was sealed earlier tells whether it is the right one. */
async function openSealer({ db, dataFolder }: Parts): Promise<Sealer> {
  const key = await db.selectFrom('certificate').select('sealed_key as sealed').executeTakeFirst();
  const password = await db.selectFrom('join_account').select('sealed_password as sealed').executeTakeFirst();
  return Sealer.open(db, dataFolder, (key ?? password)?.sealed);
}

/** Tells the runner of every kind of job, before it takes up those that a stop cut short. */
export function registerJobs(
  parts: Parts,
  { images, packages, certificates, installations, joinAccounts, pools, creation }: AllStores,
): void {
  imageJobs(parts, images);
  packageJobs(parts, packages);
  parts.jobs.register(installJob(parts, installations));
  parts.jobs.register(removeJob(parts, installations));
  parts.jobs.register(bulkJob({ parts, packages, certificates }));
  quotaRequests(parts).hear();
  siteRequests(parts).hear();
  poolJobs(parts, joinAccounts);
  parts.jobs.register(firstDesktopsJob(parts, { images, creation }));
  parts.jobs.register(actJob(parts, pools, joinAccounts));
}
