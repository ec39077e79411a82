/** Puts the parts of the server together. */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import express, { type Express } from 'express';
import type { Logger } from 'pino';
import { estatePlan } from '@vatline/demo/estate';
import { accessRoutes } from './access/routes.ts';
import { bulkJob } from './bulk/job.ts';
import { bulkRoutes } from './bulk/routes.ts';
import { calendarRoutes } from './calendar/routes.ts';
import { CalendarStore } from './calendar/store.ts';
import { fillDemo } from './demo/fill.ts';
import { PracticeEstate } from './estate/practice/practice-estate.ts';
import { clockRoutes } from './estate-station/clock-routes.ts';
import { estateRoutes } from './estate-station/routes.ts';
import { homeRoutes } from './home/routes.ts';
import { CutSchedules } from './image/cut-schedules.ts';
import { deltaRoutes } from './image/delta-job.ts';
import { fragmentRoutes } from './image/fragment-routes.ts';
import { handWorkRoutes } from './image/hand-work.ts';
import { importRoutes } from './image/import-version.ts';
import { inventoryRoutes } from './image/inventories.ts';
import { materialRoutes } from './image/materials.ts';
import { imageJobs } from './image/jobs.ts';
import { lineRoutes } from './image/line-routes.ts';
import { machineRoutes } from './image/machine-routes.ts';
import { versionRoutes as imageVersionRoutes } from './image/version-routes.ts';
import { ImageStore } from './image/store.ts';
import { installJob } from './installed/install-job.ts';
import { removeJob } from './installed/remove-job.ts';
import { installationRoutes } from './installed/routes.ts';
import { InstallationStore } from './installed/store.ts';
import { optionSheetRoutes } from './option-sheet/routes.ts';
import { packageJobs } from './package/jobs.ts';
import { captureRoutes } from './package/capture-routes.ts';
import { contentRoutes } from './package/content-routes.ts';
import { certificateRoutes } from './package/certificate-routes.ts';
import { CertificateStore } from './package/certificates.ts';
import { libraryRoutes } from './package/library-routes.ts';
import { packageRoutes } from './package/routes.ts';
import { ruleRoutes } from './package/rule-routes.ts';
import { shareRoutes } from './package/share-routes.ts';
import { clearOrphans } from './package/clear-orphans.ts';
import { PackageStore } from './package/store.ts';
import { versionRoutes } from './package/version-routes.ts';
import { Door } from './platform/door.ts';
import { openDatabase, type Db } from './platform/database.ts';
import { clearCutShortFilling, clearUploads, refuseHalf } from './platform/data-folder.ts';
import { createHttp } from './platform/http.ts';
import { JobRunner } from './platform/jobs/runner.ts';
import { jobRoutes } from './platform/jobs/routes.ts';
import { Answers } from './platform/answers.ts';
import { Callers, callerRoutes } from './platform/callers.ts';
import { Journal } from './platform/journal.ts';
import { Live } from './platform/live.ts';
import { openApiDocument } from './platform/openapi.ts';
import type { Parts } from './platform/parts.ts';
import { Trouble } from './platform/trouble.ts';
import { openWorkers } from './platform/workers.ts';
import { poolJobs } from './pool/jobs.ts';
import { hostRoutes } from './pool/host-routes.ts';
import { poolRoutes } from './pool/routes.ts';
import { PoolStore } from './pool/pools.ts';
import { RolloutEngine } from './rollout/engine.ts';
import { HostWork } from './rollout/host-work.ts';
import { Plans } from './rollout/plans.ts';
import { Rings } from './rollout/rings.ts';
import { rolloutRoutes } from './rollout/routes.ts';
import { calendarUse } from './rollout/calendar-use.ts';
import { RolloutStore } from './rollout/store.ts';

export interface ApplicationOptions {
  readonly dataFolder: string;
  readonly webFolder: string;
  /** Names besides loopback by which it is reached. */
  readonly hosts?: readonly string[];
  readonly log: Logger;
  /** Whether an empty data folder is filled with the demo. */
  readonly demo: boolean;
  /** Whether the practice clock ticks; tests move it themselves. */
  readonly ticking: boolean;
  /** Called with a sentence as filling goes on. */
  readonly onProgress?: (text: string) => void;
}

export interface Application {
  readonly http: Express;
  readonly db: Db;
  readonly estate: PracticeEstate;
  readonly resumedJobs: number;
  close(): Promise<void>;
}

const CLOCK_TELL_MS = 2_000;
const FIVE_MINUTES = 300_000;

export async function openApplication(options: ApplicationOptions): Promise<Application> {
  const { dataFolder, log, onProgress: say = () => undefined } = options;
  mkdirSync(dataFolder, { recursive: true });
  if (clearCutShortFilling(dataFolder)) say('Filling the demo was cut short; beginning anew');
  clearUploads(dataFolder);
  mkdirSync(join(dataFolder, 'containers'), { recursive: true });
  await refuseHalf(dataFolder);
  const db = await openDatabase(join(dataFolder, 'vatline.sqlite'));
  const orphans = await clearOrphans({ db, dataFolder });
  if (orphans > 0) log.info(`removed ${orphans} files of containers that no version has`);
  const estate = await PracticeEstate.open(join(dataFolder, 'estate.sqlite'), estatePlan(), () =>
    performance.now(),
  );
  const answers = new Answers(
    () => estate.clock.now(),
    () => performance.now(),
  );
  const live = new Live((topics) => answers.changed(topics));
  const journal = new Journal(db, live);
  const trouble = new Trouble({ db, dataFolder, log }, () => journal.tell('clock'));
  estate.operations.onFailure = (error) => {
    if (trouble.notice(error)) return 'again';
    log.error({ err: error as Error }, 'what the clock led to failed');
    return 'go on';
  };
  const { clock, operations } = estate;
  const jobs = new JobRunner({ db, clock, operations, journal, log, trouble });
  const parts: Parts = {
    db,
    estate,
    control: estate,
    jobs,
    journal,
    workers: openWorkers(),
    log,
    trouble,
    dataFolder,
  };
  const images = new ImageStore(parts);
  const packages = new PackageStore(parts);
  const certificates = await CertificateStore.open(parts);
  if (certificates.keyFault !== '') log.error(`certificates cannot sign: ${certificates.keyFault}`);
  const installations = new InstallationStore(parts);
  const pools = new PoolStore(parts);
  const calendars = new CalendarStore(parts);
  const plans = new Plans(parts, pools, calendars);
  const rollouts = new RolloutStore(parts, plans);
  const engine = new RolloutEngine(parts, plans, rollouts, new HostWork(parts, pools, rollouts));
  const rings = new Rings(parts, plans, engine);
  const schedules = new CutSchedules(parts, images, rings);
  imageJobs(parts, images);
  packageJobs(parts, packages);
  jobs.register(installJob(parts, installations));
  jobs.register(removeJob(parts, installations));
  jobs.register(bulkJob({ parts, packages, certificates }));
  poolJobs(parts);
  if (options.demo)
    await fillDemo(parts, estate, { images, packages, pools, plans, certificates, installations }, say);
  await images.versions.indexOlder();
  const resumedJobs = await jobs.resumeAll();
  await engine.resume();
  await rings.resume();
  await schedules.resume();
  trouble.onOver(async () => {
    await jobs.resumeAll();
    await engine.resume();
  });
  tellTheTime(estate, journal);
  if (options.ticking) estate.clock.start();

  const v1 = express.Router();
  const callers = await Callers.open(db);
  const door = new Door(v1, live, callers, answers);
  callerRoutes(door, callers);
  homeRoutes(door, parts, { images, packages, pools, rollouts, schedules, certificates });
  lineRoutes(door, parts, images);
  machineRoutes(door, parts, images);
  imageVersionRoutes(door, parts, images, schedules);
  inventoryRoutes(door, parts, images);
  fragmentRoutes(door, parts, images);
  handWorkRoutes(door, parts, images);
  importRoutes(door, parts, images);
  deltaRoutes(door, parts, images);
  materialRoutes(door, parts, images);
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
  poolRoutes(door, parts, pools);
  hostRoutes(door, parts, pools);
  rolloutRoutes(door, parts, plans, rollouts, engine);
  calendarRoutes(door, parts, calendars, {
    use: () => calendarUse(parts),
    lookAgain: (id) => engine.advance(id),
  });
  accessRoutes(door, parts);
  estateRoutes(door, parts, pools);
  clockRoutes(door, parts, () => endOfWindow(rollouts));
  jobRoutes(door, jobs);
  v1.get('/live', live.handler);
  const api = express.Router();
  api.use('/v1', v1);
  const document = openApiDocument();
  api.get('/openapi.json', (_request, response) => void response.json(document));

  return {
    http: createHttp(parts, api, options.webFolder, options.hosts ?? []),
    db,
    estate,
    resumedJobs,
    close: async () => {
      jobs.stop();
      trouble.close();
      live.close();
      await estate.close();
      await parts.workers.close();
      await db.destroy();
    },
  };
}

/** The end of the window that is open or comes first, over all open rollouts. */
async function endOfWindow(rollouts: RolloutStore): Promise<number | null> {
  const windows = (await rollouts.list()).flatMap((rollout) =>
    rollout.endedAt === null && rollout.nextWindow ? [rollout.nextWindow] : [],
  );
  const first = windows.sort((a, b) => a.start - b.start)[0];
  return first ? first.end : null;
}

/** The interface runs its own hands between messages; sessions change by the curve every five minutes. */
function tellTheTime(estate: PracticeEstate, journal: Journal): void {
  let told = 0;
  let fiveMinutes = 0;
  estate.clock.onTick(() => {
    const real = performance.now();
    if (real - told > CLOCK_TELL_MS) {
      journal.tell('clock');
      told = real;
    }
    const now = Math.floor(estate.clock.now() / FIVE_MINUTES);
    if (now !== fiveMinutes) journal.tell('estate', 'pool');
    fiveMinutes = now;
  });
}
