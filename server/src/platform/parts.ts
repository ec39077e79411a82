/** What the features of the server are built from. */
import type { Logger } from 'pino';
import type { EstateControl } from '../estate/control.ts';
import type { EstateDriver } from '../estate/driver/driver.ts';
import type { Db } from './database.ts';
import type { JobRunner } from './jobs/runner.ts';
import type { Journal } from './journal.ts';
import type { Trouble } from './trouble.ts';
import type { Workers } from './workers.ts';

export interface Parts {
  readonly db: Db;
  readonly estate: EstateDriver;
  /** Only with a practice estate. */
  readonly control: EstateControl | undefined;
  readonly jobs: JobRunner;
  readonly journal: Journal;
  readonly log: Logger;
  readonly trouble: Trouble;
  readonly workers: Workers;
  readonly dataFolder: string;
}
