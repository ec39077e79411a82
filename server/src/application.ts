/** Puts the parts of the server together. */
import { mkdirSync } from 'node:fs';
import { join } from 'node:path';
import express, { type Express } from 'express';
import type { Logger } from 'pino';
import { estatePlan } from '@vatline/demo/estate';
import { fillDemo } from './demo/fill.ts';
import { quotaRequests } from './estate-station/quota.ts';
import { siteRequests } from './estate-station/sites.ts';
import { PracticeEstate } from './estate/practice/practice-estate.ts';
import { clearOrphans } from './package/clear-orphans.ts';
import { Door } from './platform/door.ts';
import { openDatabase, type Db } from './platform/database.ts';
import { clearCutShortFilling, clearUploads, refuseHalf } from './platform/data-folder.ts';
import { createHttp } from './platform/http.ts';
import { JobRunner } from './platform/jobs/runner.ts';
import { Answers } from './platform/answers.ts';
import { Callers, callerRoutes } from './platform/callers.ts';
import { Journal } from './platform/journal.ts';
import { Live } from './platform/live.ts';
import { openApiDocument } from './platform/openapi.ts';
import type { Parts } from './platform/parts.ts';
import { tellBroker } from './pool/tell-broker.ts';
import { Trouble } from './platform/trouble.ts';
import { openWorkers } from './platform/workers.ts';
import { allRoutes } from './all-routes.ts';
import { openStores, registerJobs, type AllStores } from './all-stores.ts';

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
  const { onProgress: say = () => undefined } = options;
  const { parts, estate, live, answers } = await openParts(options, say);
  const { db, jobs, journal } = parts;
  const stores = await openStores(parts);
  registerJobs(parts, stores);
  if (options.demo) await fillDemo(parts, estate, stores, say);
  const resumedJobs = await resume(parts, stores);
  tellTheTime(estate, journal);
  if (options.ticking) estate.clock.start();

  const v1 = express.Router();
  const callers = await Callers.open(db);
  const door = new Door(v1, live, callers, answers);
  callerRoutes(door, callers);
  allRoutes(door, parts, stores);
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
      parts.trouble.close();
      live.close();
      await estate.close();
      await parts.workers.close();
      await db.destroy();
    },
  };
}

interface Opened {
  readonly parts: Parts;
  readonly estate: PracticeEstate;
  readonly live: Live;
  readonly answers: Answers;
}

/** The ground: a data folder that is whole, the database, the estate, and what everything stands on. */
async function openParts(
  { dataFolder, log }: ApplicationOptions,
  say: (text: string) => void,
): Promise<Opened> {
  mkdirSync(dataFolder, { recursive: true });
  if (clearCutShortFilling(dataFolder)) say('Filling the demo was cut short; beginning anew');
  clearUploads(dataFolder);
  mkdirSync(join(dataFolder, 'containers'), { recursive: true });
  await refuseHalf(dataFolder);
  const db = await openDatabase(join(dataFolder, 'vatline.sqlite'));
  const orphans = await clearOrphans({ db, dataFolder });
  if (orphans > 0) log.info(`removed ${orphans} files of containers that no version has`);
  const real = () => performance.now();
  const estate = await PracticeEstate.open(join(dataFolder, 'estate.sqlite'), estatePlan(), real);
  const answers = new Answers(() => estate.clock.now(), real);
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
  const workers = openWorkers();
  const parts = { db, estate, control: estate, jobs, journal, workers, log, trouble, dataFolder };
  return { parts, estate, live, answers };
}

/** Takes up what a stop cut short, and does so again when trouble with the disk is over. Gives the number of jobs. */
async function resume(
  parts: Parts,
  { images, pools, keeper, switches, engine, driftLook, staged, schedules, recurring }: AllStores,
): Promise<number> {
  const { jobs, trouble } = parts;
  await images.versions.indexOlder();
  const resumedJobs = await jobs.resumeAll();
  await engine.resume();
  await tellBroker(parts, pools);
  await keeper.resume();
  driftLook.arm();
  await switches.resume();
  await staged.resume();
  await schedules.resume();
  await recurring.resume();
  await quotaRequests(parts).resume();
  await siteRequests(parts).resume();
  trouble.onOver(async () => {
    await jobs.resumeAll();
    await engine.resume();
    await keeper.resume();
    await switches.resume();
  });
  return resumedJobs;
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
