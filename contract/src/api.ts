/** Every endpoint, for the OpenAPI document. */
import { accessEndpoints } from './access.ts';
import { applicationSearchEndpoints } from './application-search.ts';
import type { Endpoint } from './endpoint.ts';
import { blendEndpoints } from './blends.ts';
import { bulkEndpoints } from './bulk.ts';
import { callerEndpoints } from './caller.ts';
import { calendarEndpoints } from './calendar.ts';
import { chassisEndpoints } from './chassis.ts';
import { capacityEndpoints } from './capacity.ts';
import { captureEndpoints, captureFileEndpoints } from './capture.ts';
import { cutScheduleEndpoints } from './cut-schedule.ts';
import { estateEndpoints } from './estate.ts';
import { firstDesktopsEndpoints } from './first-desktops.ts';
import { fragmentEndpoints } from './fragment.ts';
import { handWorkEndpoints } from './hand-work.ts';
import { hostEndpoints } from './pool/host.ts';
import { driftEndpoints } from './drift.ts';
import { homeEndpoints } from './home.ts';
import { progressEndpoints } from './rollout-progress.ts';
import { aheadEndpoints } from './ahead.ts';
import { keptPlanEndpoints } from './kept-plan.ts';
import { recurringEndpoints } from './recurring.ts';
import { plannedEndpoints, plannedFileEndpoints } from './planned.ts';
import { imageEndpoints, imageFileEndpoints } from './image.ts';
import { installationEndpoints, installationFileEndpoints } from './installation.ts';
import { jobEndpoints } from './job.ts';
import { noiseRuleEndpoints } from './noise-rules.ts';
import { optionSheetEndpoints } from './option-sheet.ts';
import { packageEndpoints, packageFileEndpoints } from './package.ts';
import { directoryEndpoints, directoryFileEndpoints } from './directory.ts';
import { datastoreEndpoints } from './pool/datastore.ts';
import { poolEndpoints, poolFileEndpoints } from './pool/endpoints.ts';
import { poolHealthEndpoints } from './pool/health.ts';
import { hostActionEndpoints } from './pool/host-action.ts';
import { moreHostsEndpoints } from './pool/more-hosts.ts';
import { poolSettingsEndpoints } from './pool/settings.ts';
import { readinessEndpoints } from './pool/readiness.ts';
import { streamingEndpoints } from './pool/streaming.ts';
import { promiseEndpoints } from './promises.ts';
import { ringOrderEndpoints } from './rings/order.ts';
import { stagedEndpoints } from './rings/staged.ts';
import { recordEndpoints, recordFileEndpoints } from './rollout-record.ts';
import { rolloutEndpoints } from './rollout.ts';
import { shareEndpoints } from './share.ts';

export const api: Record<string, Record<string, Endpoint>> = {
  caller: callerEndpoints,
  home: homeEndpoints,
  drift: driftEndpoints,
  rolloutProgress: progressEndpoints,
  ahead: aheadEndpoints,
  keptPlans: keptPlanEndpoints,
  recurring: recurringEndpoints,
  planned: plannedEndpoints,
  plannedFiles: plannedFileEndpoints,
  firstDesktops: firstDesktopsEndpoints,
  images: imageEndpoints,
  imageFiles: imageFileEndpoints,
  cutSchedules: cutScheduleEndpoints,
  fragments: fragmentEndpoints,
  handWork: handWorkEndpoints,
  applications: applicationSearchEndpoints,
  bulk: bulkEndpoints,
  captures: captureEndpoints,
  captureFiles: captureFileEndpoints,
  noiseRules: noiseRuleEndpoints,
  optionSheets: optionSheetEndpoints,
  packages: packageEndpoints,
  packageFiles: packageFileEndpoints,
  datastores: datastoreEndpoints,
  hostActions: hostActionEndpoints,
  poolFiles: poolFileEndpoints,
  poolHealth: poolHealthEndpoints,
  directory: directoryEndpoints,
  directoryFiles: directoryFileEndpoints,
  installations: installationEndpoints,
  installationFiles: installationFileEndpoints,
  shares: shareEndpoints,
  pools: poolEndpoints,
  readiness: readinessEndpoints,
  poolSettings: poolSettingsEndpoints,
  moreHosts: moreHostsEndpoints,
  streaming: streamingEndpoints,
  chassis: chassisEndpoints,
  hosts: hostEndpoints,
  blends: blendEndpoints,
  rollouts: rolloutEndpoints,
  promises: promiseEndpoints,
  rolloutRecords: recordEndpoints,
  rolloutRecordFiles: recordFileEndpoints,
  ringOrders: ringOrderEndpoints,
  stagedRollouts: stagedEndpoints,
  calendars: calendarEndpoints,
  access: accessEndpoints,
  estate: estateEndpoints,
  capacity: capacityEndpoints,
  jobs: jobEndpoints,
} as unknown as Record<string, Record<string, Endpoint>>;
