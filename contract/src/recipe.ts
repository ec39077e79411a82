/** Recipes and hardware as the API and the recipe file hold them. */
import { z } from 'zod';
import {
  diskControllers,
  firmwareKinds,
  graphicsKinds,
  legacyDevices,
  MOST_DISKS,
  networkKinds,
  type Hardware,
} from '@vatline/core/image/hardware';
import {
  certificateStores,
  cleanUpTargets,
  registryTypes,
  scriptLanguages,
  serviceStarts,
  stepKinds,
  updateCategories,
  type Step,
  type StepKind,
} from '@vatline/core/image/recipe';
import type { SuccessCheck } from '@vatline/core/image/success-check';
import { bytes, filled, longText, text } from './endpoint.ts';

const digestOf = (what: string) =>
  text.regex(/^[0-9a-f]{64}$/, `must be the SHA-256 of ${what}, 64 hex digits`);
const exitCodes = z
  .array(z.number().int().min(-2_147_483_648).max(4_294_967_295))
  .max(50, 'are more than 50')
  .min(1, 'needs at least one exit code that means success')
  .readonly();
const languageTag = text.regex(
  /^[a-z]{2,3}(-[A-Z][a-z]{3})?(-[A-Z]{2})?$/,
  'must be a language tag such as en-IE',
);
const version = filled('The version');
const application = { name: filled('The name'), publisher: filled('The publisher'), version };

export const successCheckSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    kind: z.literal('file'),
    path: filled('The path'),
    sha256: digestOf('the file').optional(),
  }),
  z.strictObject({
    kind: z.literal('registry'),
    key: filled('The key'),
    name: filled('The name'),
    value: longText,
  }),
  z.strictObject({ kind: z.literal('service'), name: filled('The service'), start: text.optional() }),
  z.strictObject({
    kind: z.literal('version'),
    name: filled('The application'),
    atLeast: filled('The version'),
  }),
  z.strictObject({ kind: z.literal('exit code'), codes: exitCodes }),
]) satisfies z.ZodType<SuccessCheck, unknown>;

/** A step of one kind: its fields stand between those that name it and those that say how it is run. */
function step<K extends StepKind, F extends z.ZodRawShape>(kind: K, fields: F) {
  return z.strictObject({
    id: text.regex(/^[\w.-]{1,60}$/, 'must be 1 to 60 letters, digits, dots, hyphens or underscores'),
    kind: z.literal(kind),
    label: filled('The label').max(80).optional(),
    section: filled('The section').max(60).optional(),
    ...fields,
    success: successCheckSchema.optional(),
    restart: z.enum(['when asked', 'always']).optional(),
    retries: z.number().int().min(0).max(5, 'is more than 5 tries again').optional(),
    expectedMinutes: z
      .number()
      .min(0.01, 'must be more than 0')
      .max(600, 'is more than ten hours')
      .optional(),
    alwaysRun: z.boolean().optional(),
    disabled: z.boolean().optional(),
    note: text.optional(),
  });
}

const knownKinds = stepKinds.join(', ');

/** So many steps a recipe or fragment has; ten times the longest that is known. */
export const MAX_STEPS = 500;

/** One step of a recipe. An unknown kind is refused with the kinds that are known. */
export const stepSchema = z.discriminatedUnion(
  'kind',
  [
    step('operating system', {
      system: filled('The system'),
      edition: text,
      language: languageTag.optional(),
      mediaDigest: digestOf('the media'),
    }),
    step('updates', {
      feed: filled('The feed').optional(),
      release: text.regex(/^\d{4}-\d{2}[a-z]?$/, 'must be a release such as 2027-03'),
      categories: z.array(z.enum(updateCategories)).min(1, 'names no category').max(20).readonly().optional(),
    }),
    step('guest tools', { version, drivers: z.array(filled('The driver')).max(200).readonly() }),
    step('language pack', { language: languageTag }),
    step('application', { ...application, command: filled('The command'), exitCodes }),
    step('packaged application', { ...application, digest: digestOf('the container') }),
    step('application by option sheet', {
      ...application,
      sheet: filled('The sheet'),
      digest: z.string().max(64).default(''),
    }),
    step('file copy', {
      source: filled('The source'),
      target: filled('The target'),
      digest: digestOf('the file'),
    }),
    step('shortcut', {
      name: filled('The name'),
      target: filled('The target'),
      place: z.enum(['desktop', 'start menu']),
    }),
    step('registry setting', {
      key: filled('The key'),
      name: text,
      type: z.enum(registryTypes),
      value: longText,
    }),
    step('service start', { name: filled('The service'), start: z.enum(serviceStarts) }),
    step('scheduled task', {
      name: filled('The task'),
      action: z.enum(['create', 'remove']),
      command: text,
      schedule: text,
    }),
    step('certificate', {
      store: z.enum(certificateStores),
      subject: filled('The subject'),
      digest: digestOf('the certificate'),
    }),
    step('script', {
      title: filled('The title'),
      language: z.enum(scriptLanguages).optional(),
      text: longText.min(1, 'The script is empty'),
    }),
    step('join directory', { ou: filled('The organisational unit') }),
    step('host agent', { version }),
    step('profile agent', { version, share: filled('The share') }),
    step('settings baseline', {
      baseline: filled('The baseline'),
      revision: z.number().int().min(1).max(1e9),
    }),
    step('restart', {}),
    step('wait for settle', { limitMinutes: z.number().int().min(1).max(120) }),
    step('clean-up', {
      targets: z.array(z.enum(cleanUpTargets)).min(1, 'names nothing').max(20).readonly(),
    }),
    step('fragment', {
      fragment: filled('The fragment'),
      revision: z.number().int().min(1, 'must be at least 1').max(1e9),
    }).omit({ success: true, restart: true, retries: true, expectedMinutes: true }),
  ],
  {
    error: (issue) =>
      issue.code === 'invalid_union' ? `is not a kind of step; known are ${knownKinds}` : undefined,
  },
) satisfies z.ZodType<Step, unknown>;

const diskSchema = z.strictObject({
  sizeBytes: bytes.min(1e9, 'must be at least 1 GB').max(4e12, 'is more than 4 TB'),
  controller: z.enum(diskControllers),
  thin: z.boolean(),
});

export const hardwareSchema = z
  .strictObject({
    processors: z.number().int().min(1, 'needs at least 1 processor').max(64, 'holds at most 64 processors'),
    memoryBytes: bytes.min(1e9, 'must be at least 1 GB').max(1e12, 'is more than 1 TB'),
    disks: z
      .array(diskSchema)
      .min(1, 'needs a disk for the system')
      .max(MOST_DISKS, `holds at most ${MOST_DISKS} disks`)
      .readonly(),
    network: z.enum(networkKinds),
    firmware: z.enum(firmwareKinds),
    graphics: z.enum(graphicsKinds),
    legacy: z.array(z.enum(legacyDevices)).max(20).readonly(),
  })
  .refine(({ disks }) => (disks[0]?.sizeBytes ?? 0) >= 20e9, {
    path: ['disks', 0, 'sizeBytes'],
    message: 'must be at least 20 GB, for the system',
  }) satisfies z.ZodType<Hardware, unknown>;
