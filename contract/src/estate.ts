import { z } from 'zod';
import { bytes, done, endpoint, idParams, instant, text } from './endpoint.ts';
import { pageOf, pageQuery } from './page.ts';

/** Speeds of the practice clock: estate seconds for each second; 0 stands still. */
export const clockRates = [0, 1, 60, 600] as const;

export const clockSchema = z.object({
  now: instant,
  zone: z.string(),
  rate: z.number(),
  /** Whether the clock is on its way to an instant it was sent to. */
  jumpingTo: instant.nullable(),
  /** What keeps the whole server from working, in a sentence; it is said on every screen. */
  trouble: z.string().nullable(),
});
export type Clock = z.infer<typeof clockSchema>;

export const callKinds = [
  'run step',
  'clone',
  'rebuild',
  'copy',
  'capture',
  'create computer',
  'activate',
  'set pool',
  'message',
  'power',
  'quota',
  'join',
  'register',
  'attach',
  'verify',
  'run script',
  'look through chassis',
  'associate',
  'assign stream',
  'add site',
] as const;

/** What somebody can do to a practice host and tell nobody. */
export const secretChanges = [
  'a container is taken off',
  'an older disk comes back',
  'a program is installed',
] as const;

export const faultSchema = z.object({
  id: z.string(),
  kind: z.enum(['fail next', 'quota exhausted', 'agent silent', 'account locked', 'slow sign-ins']),
  /** The call that fails, the site whose quota is gone, the host whose agent is silent, the account, or the pool. */
  target: z.string(),
});

const amountSchema = z.object({ total: z.number(), used: z.number() });

export const siteSchema = z.object({
  name: z.string(),
  cores: amountSchema,
  memoryBytes: amountSchema,
  graphics: amountSchema,
  machines: z.number(),
  /** Machines that are made, or made anew, at the same time. */
  makesAtOnce: z.number(),
  networks: z.array(z.object({ name: z.string(), range: z.string(), addresses: amountSchema })),
  datastores: z.array(
    z.object({
      name: z.string(),
      capacityBytes: bytes,
      usedBytes: bytes,
      /** Bytes promised for each that is there. */
      overcommit: z.number(),
      /** A second. */
      operations: amountSchema,
      /** Money for a gigabyte and month. */
      price: z.number(),
    }),
  ),
  /** None where machines stand in a chassis. */
  sizes: z.array(
    z.object({
      name: z.string(),
      processors: z.number(),
      memoryBytes: bytes,
      graphics: z.number(),
      /** Money for an hour in which it is on. */
      pricePerHour: z.number(),
    }),
  ),
});
export type Site = z.infer<typeof siteSchema>;

export const quotaStates = ['asked', 'granted', 'refused'] as const;

/** What those who run a site were asked for, and what they said. */
export const quotaRequestSchema = z.object({
  id: z.string(),
  site: z.string(),
  cores: z.number(),
  memoryBytes: bytes,
  graphics: z.number(),
  text: z.string(),
  askedAt: instant,
  state: z.enum(quotaStates),
  /** Why not; empty where it was granted. */
  answer: z.string(),
  answeredAt: instant.nullable(),
});
export type QuotaRequest = z.infer<typeof quotaRequestSchema>;

export const estateSchema = z.object({
  sites: z.array(siteSchema),
  shares: z.array(
    z.object({
      name: z.string(),
      capacityBytes: bytes,
      usedBytes: bytes,
      operationsPerSecond: z.number(),
      files: z.number(),
    }),
  ),
  directory: z.object({
    root: z.string(),
    units: z.number(),
    users: z.number(),
    groups: z.number(),
    computers: z.number(),
  }),
  agents: z.object({ reporting: z.number(), silent: z.array(z.string()), nextCheck: instant.nullable() }),
  sessions: z.number(),
  licences: z.array(z.object({ name: z.string(), activations: z.number(), used: z.number() })),
  faults: z.array(faultSchema),
});
export type Estate = z.infer<typeof estateSchema>;

const clockChangeSchema = z.discriminatedUnion('action', [
  z.strictObject({
    action: z.literal('rate'),
    rate: z.literal([0, 1, 60, 600]),
  }),
  z.strictObject({ action: z.literal('next event') }),
  z.strictObject({ action: z.literal('end of window') }),
  /** Ends being sent ahead, where the clock has got to. */
  z.strictObject({ action: z.literal('stop') }),
]);
export type ClockChange = z.infer<typeof clockChangeSchema>;

export const estateEndpoints = {
  clock: endpoint({
    method: 'get',
    path: '/estate/clock',
    summary: 'The estate clock',
    dependsOn: ['clock'],
    response: clockSchema,
  }),
  assessment: endpoint({
    method: 'get',
    path: '/estate/assessment',
    summary: "What the practice estate measured on people's old desktops, as CSV",
    response: z.object({ csv: z.string() }),
  }),
  setClock: endpoint({
    method: 'post',
    path: '/estate/clock',
    summary: 'Set the speed of the clock, or send it ahead',
    changes: ['clock'],
    body: clockChangeSchema,
    response: clockSchema,
  }),
  get: endpoint({
    method: 'get',
    path: '/estate',
    summary: 'The outside systems as they are now',
    dependsOn: ['estate', 'clock'],
    response: estateSchema,
  }),
  quotaRequests: endpoint({
    method: 'get',
    path: '/estate/quota-requests',
    summary: 'What sites were asked for, the newest first',
    dependsOn: ['estate'],
    response: z.array(quotaRequestSchema),
  }),
  requestQuota: endpoint({
    method: 'post',
    path: '/estate/quota-requests',
    summary: 'Ask those who run a site for more cores, memory or graphics processors',
    changes: ['estate'],
    body: z
      .strictObject({
        site: text.min(1, 'choose a site'),
        /** A site of a million cores is no site. */
        cores: z.number().int().min(0).max(1_000_000).default(0),
        memoryBytes: z.number().int().min(0).max(1e15).default(0),
        graphics: z.number().int().min(0).max(10_000).default(0),
        text: z.string().max(2_000, 'has over 2,000 characters').default(''),
      })
      .refine((asked) => asked.cores !== 0 || asked.memoryBytes !== 0 || asked.graphics !== 0, {
        path: ['cores'],
        message: 'asks for nothing',
      }),
    response: z.object({ id: z.string() }),
  }),
  groups: endpoint({
    method: 'get',
    path: '/estate/groups',
    summary: 'Groups of the directory, with how many people each reaches',
    dependsOn: ['estate'],
    response: z.array(z.object({ name: z.string(), users: z.number(), groups: z.array(z.string()) })),
  }),
  users: endpoint({
    method: 'get',
    path: '/estate/users',
    summary: 'People whose name, account or role holds a text, by name, page by page',
    dependsOn: ['estate'],
    query: z.strictObject({
      ...pageQuery,
      /** Part of a name, an account or a role. */
      q: text.default(''),
    }),
    response: pageOf(
      z.object({ account: z.string(), name: z.string(), branch: z.string(), role: z.string() }),
    ),
  }),
  addFault: endpoint({
    method: 'post',
    path: '/estate/faults',
    summary: 'Switch a fault on, to practise with',
    changes: ['estate'],
    body: z.strictObject({ kind: faultSchema.shape.kind, target: text }),
    response: faultSchema,
  }),
  changeInSecret: endpoint({
    method: 'post',
    path: '/estate/secret-changes',
    summary: 'Change a host as somebody would who tells nobody, to practise with',
    changes: ['estate'],
    body: z.strictObject({ host: text, change: z.enum(secretChanges) }),
    response: done,
  }),
  removeFault: endpoint({
    method: 'delete',
    path: '/estate/faults/:id',
    summary: 'Switch a fault off',
    changes: ['estate'],
    params: idParams,
    response: done,
  }),
};
