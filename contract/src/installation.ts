/** Installed delivery: what is installed on hosts by their agents, on which, and what came of it. */
import { z } from 'zod';
import { architectures, exitMeanings, restartBehaviours } from '@vatline/core/installed/installation';
import {
  basedOn,
  bytes,
  done,
  endpoint,
  idParams,
  instant,
  JSON_TYPE,
  keptAs,
  longText,
  rawEndpoint,
  text,
} from './endpoint.ts';
import { jobSchema } from './job.ts';

const name = text.max(200);

export const hostRuleSchema = z.discriminatedUnion('kind', [
  z.strictObject({ kind: z.literal('file'), path: name.min(1, 'is empty'), sha256: text.optional() }),
  z.strictObject({ kind: z.literal('registry'), key: name.min(1, 'is empty'), name, value: longText }),
  z.strictObject({ kind: z.literal('service'), name: name.min(1, 'is empty'), start: name.optional() }),
  z.strictObject({
    kind: z.literal('version'),
    name: name.min(1, 'is empty'),
    atLeast: name.min(1, 'is empty'),
  }),
  z.strictObject({ kind: z.literal('script'), text: z.string().max(20_000) }),
]);

export const installationSchema = z.strictObject({
  name,
  publisher: name,
  version: name,
  installCommand: z.string().max(1000),
  uninstallCommand: z.string().max(1000),
  exitCodes: z
    .array(
      z.strictObject({
        code: z.number().int().min(-2_147_483_648).max(4_294_967_295),
        means: z.enum(exitMeanings),
      }),
    )
    .max(50),
  timeLimitMinutes: z.number().min(1, 'is at least a minute').max(600, 'is at most ten hours'),
  restart: z.enum(restartBehaviours),
  requirements: z.strictObject({
    architecture: z.enum(architectures),
    minimumSystem: name,
    diskBytes: bytes.min(0),
    memoryBytes: bytes.min(0),
    rules: z.array(hostRuleSchema).max(50),
  }),
  detection: z.array(hostRuleSchema).max(50),
  dependencies: z.array(z.strictObject({ name, range: name })).max(50),
  replaces: z.array(name).max(50),
  deadline: instant.nullable(),
  quietHours: z.strictObject({ start: name, end: name }).nullable(),
  notification: z.string().max(2000),
  hosts: z.string().max(500),
});
export type InstallationInput = z.infer<typeof installationSchema>;

export const reportStates = [
  'waiting',
  'installed',
  'detected already',
  'not applicable',
  'removed',
  'not there',
  'needed',
  'failed',
  'cancelled',
] as const;
export type ReportState = (typeof reportStates)[number];

/** What came of an installation, or of taking it away, on one host. */
export const installReportSchema = z.object({
  host: z.string(),
  pool: z.string(),
  state: z.enum(reportStates),
  /** Exit code of the installer; null where it did not run. */
  code: z.number().nullable(),
  why: z.string(),
  /** When it ended, or when the agent is to begin while it waits. */
  at: instant,
});
export type InstallReport = z.infer<typeof installReportSchema>;

export const installationRowSchema = z.object({
  id: z.string(),
  installation: installationSchema,
  /** The archive of its source folder; null before one was given. */
  archive: z.object({ digest: z.string(), bytes, files: z.number() }).nullable(),
  createdAt: instant,
  revision: z.number(),
  /** Hosts by what came of it; empty before it was begun. */
  counts: z.partialRecord(z.enum(reportStates), z.number()),
  activeJob: jobSchema.nullable(),
});
export type InstallationRow = z.infer<typeof installationRowSchema>;

/** What would happen on one host if it was begun now. */
export const installForecastSchema = z.object({
  faults: z.array(z.object({ path: z.string(), message: z.string() })),
  /** Applications in the order in which they would be installed, itself last. */
  order: z.array(z.string()),
  hosts: z.array(
    z.object({
      host: z.string(),
      pool: z.string(),
      state: z.enum(['to install', 'detected already', 'not applicable']),
      why: z.array(z.string()),
      /** When the agent would begin. */
      from: instant.nullable(),
    }),
  ),
});
export type InstallForecast = z.infer<typeof installForecastSchema>;

/** What taking it away would do now. */
export const removalForecastSchema = z.object({
  hosts: z.array(
    z.object({
      host: z.string(),
      pool: z.string(),
      state: z.enum(['to remove', 'not there', 'needed']),
      /** What needs it there. */
      by: z.array(z.string()),
    }),
  ),
});
export type RemovalForecast = z.infer<typeof removalForecastSchema>;

export const installationEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/installations',
    summary: 'Applications that agents install, and what came of each',
    dependsOn: ['package', 'installation'],
    response: z.array(installationRowSchema),
  }),
  create: endpoint({
    method: 'post',
    path: '/installations',
    summary: 'Begin an installation: from the library of the packaging machine, or empty',
    changes: ['package'],
    body: z.strictObject({ installer: z.string().nullable() }),
    response: z.object({ id: z.string() }),
  }),
  keep: endpoint({
    method: 'put',
    path: '/installations/:id',
    summary: 'Keep an installation as it is; what is wrong with it is told when it is begun',
    changes: ['package'],
    params: idParams,
    body: installationSchema.extend({ basedOn }),
    response: keptAs,
  }),
  remove: endpoint({
    method: 'delete',
    path: '/installations/:id',
    summary: 'Delete an installation with its archive and reports; what was installed stays',
    changes: ['package'],
    params: idParams,
    response: done,
  }),
  forecast: endpoint({
    method: 'post',
    path: '/installations/:id/forecast',
    summary: 'What would happen on each host, by what is on it now',
    params: idParams,
    body: installationSchema,
    response: installForecastSchema,
  }),
  begin: endpoint({
    method: 'post',
    path: '/installations/:id/begin',
    summary: 'Give it to the agents of its hosts',
    changes: ['package', 'job'],
    params: idParams,
    response: z.object({ jobId: z.string() }),
  }),
  removal: endpoint({
    method: 'get',
    path: '/installations/:id/removal',
    summary: 'From which hosts it would be taken away now, and where it stays since something needs it',
    dependsOn: ['package', 'installation:{id}', 'pool'],
    params: idParams,
    response: removalForecastSchema,
  }),
  takeAway: endpoint({
    method: 'post',
    path: '/installations/:id/take-away',
    summary: 'Let the agents of its hosts uninstall it',
    changes: ['package', 'job'],
    params: idParams,
    response: z.object({ jobId: z.string() }),
  }),
  report: endpoint({
    method: 'get',
    path: '/installations/:id/report',
    summary: 'What came of it, host by host',
    dependsOn: ['package', 'installation:{id}'],
    params: idParams,
    response: z.array(installReportSchema),
  }),
};

/** The source of an installer, sent as an archive. */
export const installationFileEndpoints = {
  source: rawEndpoint({
    method: 'post',
    path: '/installations/:id/source',
    summary: 'Bring the source that the installer is run from: a form with the archive `source`',
    takes: 'form',
    gives: JSON_TYPE,
    changes: ['package'],
    params: idParams,
    response: done,
  }),
};
