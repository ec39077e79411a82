/** What a pool is: who has its hosts, how they are made, and what a new one is to be. */
import { z } from 'zod';
import { cloneKinds } from '@vatline/core/pool/clone-storage';
import { chosen, id, text } from '../endpoint.ts';

export const poolKinds = ['pooled', 'dedicated'] as const;
export type PoolKind = (typeof poolKinds)[number];

export { cloneKinds };
export type { CloneKind } from '@vatline/core/pool/clone-storage';

/** What of a pool lies on a datastore. `disks`: what its hosts write. `parent`: what linked clones share. `data`: what stays one person's. */
export const placementRoles = ['disks', 'parent', 'data'] as const;
export type PlacementRole = (typeof placementRoles)[number];

/** What becomes of what was written when somebody signs out. */
export const signOuts = ['keep', 'return to clean'] as const;
export type SignOut = (typeof signOuts)[number];

/** How far apart places of one pool can be is for people; more than four nobody keeps in mind. */
export const MOST_PLACES = 4;
/** A rack of chassis has some hundreds. */
export const MOST_SLOTS = 1_000;
export const slotNumber = z
  .number()
  .int('must be a whole number')
  .min(1, 'must be at least 1')
  .max(MOST_SLOTS, 'is beyond the largest chassis');
/** A command line of a system holds 32 KB. */
const MOST_SCRIPT = 32_000;

/** Half typed, it may be anything that a field lets in; what it should be is a fault at it. */
const draftNumber = z.number().min(-1e15).max(1e15);

const draftPlace = z.strictObject({
  site: text.optional(),
  network: text.optional(),
  /** Of the disks that hosts write. */
  datastore: text.optional(),
  /** Of the parent of linked clones; where their children are when nothing is said. */
  parentDatastore: text.nullable().optional(),
  /** Of personal data disks; where the hosts' own disks are when nothing is said. */
  dataDatastore: text.nullable().optional(),
  /** Hosts that it takes before the next place is used; null takes all the rest. */
  atMost: draftNumber.nullable().optional(),
});

const draft = {
  name: text,
  title: text,
  description: z.string().max(2_000),
  tags: z.array(text).max(20),
  imageVersionId: id,
  kind: z.enum(poolKinds),
  sessionLimit: draftNumber,
  signOut: z.enum(signOuts),
  idleMinutes: draftNumber.nullable(),
  disconnectMinutes: draftNumber.nullable(),
  mayRestart: z.boolean(),
  zone: text.nullable(),
  clone: z.enum(cloneKinds),
  /** Where hosts without a system disk stream their image from. */
  store: text.nullable(),
  /** A chassis, where hosts are made of the machines that stand in it; and their slots. */
  chassis: text.nullable(),
  slots: z.array(draftNumber).max(MOST_SLOTS),
  /** The disk that takes what such a host writes. */
  scratchGigabytes: draftNumber,
  size: text,
  dataGigabytes: draftNumber,
  days: draftNumber,
  places: z.array(draftPlace).max(MOST_PLACES),
  pattern: text,
  start: draftNumber,
  count: draftNumber,
  fillGaps: z.boolean(),
  ou: text,
  joinAccount: text.nullable(),
  licence: text.nullable(),
  afterMaking: z.string().max(MOST_SCRIPT, 'has over 32,000 characters'),
  isHeld: z.boolean(),
  atOnce: draftNumber,
  onFault: z.enum(['stop', 'go on']),
  isAnyway: z.boolean(),
  isAdopting: z.boolean(),
};

/** A pool that is still being thought of: anything may be missing, and nothing is judged yet. */
export const poolDraftSchema = z.strictObject(draft).partial();
export type PoolDraft = z.infer<typeof poolDraftSchema>;

const minutesOrNever = (what: string) =>
  draftNumber
    .int('must be whole minutes')
    .min(1, `must be at least 1 minute; leave it empty for no ${what}`)
    .max(43_200, 'must be at most 30 days')
    .nullable()
    .default(null);

const place = z.strictObject({
  site: text.min(1, 'choose a site'),
  network: text.min(1, 'choose a network'),
  datastore: text.min(1, 'choose a datastore'),
  parentDatastore: text.min(1).nullable().default(null),
  dataDatastore: text.min(1).nullable().default(null),
  atMost: draftNumber.int().min(1, 'must be at least 1').max(10_000).nullable().default(null),
});
export type PoolPlace = z.output<typeof place>;

/** What is kept of a pool besides what it is found by. */
export const poolSettingsSchema = z.strictObject({
  /** The name that people see; the pool's own where it is empty. */
  title: draft.title.max(80, 'has over 80 characters').default(''),
  description: draft.description.default(''),
  tags: z
    .array(
      draft.tags.element
        .regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'must be small letters, digits and hyphens')
        .max(40),
    )
    .max(20)
    .default([]),
  signOut: draft.signOut.default('keep'),
  idleMinutes: minutesOrNever('limit'),
  disconnectMinutes: minutesOrNever('limit'),
  mayRestart: draft.mayRestart.default(true),
  /** IANA name; null is the estate's. */
  zone: draft.zone.default(null),
  size: draft.size.min(1, 'choose a machine size'),
  /** A disk that stays one person's; 0 is none. */
  dataGigabytes: draft.dataGigabytes
    .min(0, 'must be at least 0')
    .max(16_000, 'must be at most 16,000')
    .default(0),
  /** A streaming store; null where hosts have disks of their own. */
  store: text.min(1).nullable().default(null),
  /** Null where hosts are virtual machines. */
  chassis: text.min(1).nullable().default(null),
  scratchGigabytes: draft.scratchGigabytes
    .min(1, 'must be at least 1')
    .max(1_000, 'must be at most 1,000')
    .default(6),
  /** Days between rebuilds. */
  days: draft.days.min(1, 'must be at least 1').max(365, 'must be at most 365').default(30),
  /** Who makes computer accounts in the unit; null is Vat Line's own account. */
  joinAccount: text.min(1).nullable().default(null),
  /** A multi-use key; null is the key service. */
  licence: text.min(1).nullable().default(null),
  afterMaking: draft.afterMaking.default(''),
  /** Whether new hosts are held back until somebody lets people in. */
  isHeld: draft.isHeld.default(false),
});
export type PoolSettings = z.output<typeof poolSettingsSchema>;

/** How hosts are made. */
const making = {
  start: draft.start.int().min(-1_000_000).max(1_000_000_000_000_000),
  count: draft.count.int().min(1, 'must be at least 1').max(10_000, 'must be at most 10,000'),
  /** Whether names that are taken are passed over; otherwise they are in the way. */
  fillGaps: draft.fillGaps.default(false),
  /** Of the chassis, a host of each. */
  slots: z.array(slotNumber).max(MOST_SLOTS).default([]),
  /** Hosts that are made at the same time; a hypervisor does hardly more. */
  atOnce: draft.atOnce.int().min(1, 'must be at least 1').max(50, 'must be at most 50').default(8),
  onFault: draft.onFault.default('stop'),
  /** Whether they are made although not all fit. */
  isAnyway: draft.isAnyway.default(false),
  /** Whether computer accounts that lie in the unit already, without a machine, are used. */
  isAdopting: draft.isAdopting.default(false),
};

const ofEveryKind = {
  ...poolSettingsSchema.shape,
  ...making,
  name: draft.name
    .min(1, 'The name is empty')
    .max(40)
    .regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'must be small letters, digits and single hyphens'),
  imageVersionId: chosen('an image version'),
  clone: draft.clone,
  places: z
    .array(place)
    .min(1, 'choose a place')
    .max(MOST_PLACES)
    .refine(
      (places) => places.slice(0, -1).every((one) => one.atMost !== null),
      'all but the last need a number of hosts',
    ),
  pattern: draft.pattern,
  ou: draft.ou.min(1, 'choose an organisational unit'),
};

/** What a new pool is to be, by its kind. */
export const newPoolSchema = z.discriminatedUnion('kind', [
  z.strictObject({
    ...ofEveryKind,
    kind: z.literal('pooled'),
    /** People at a time on one host. */
    sessionLimit: draft.sessionLimit.int().min(1, 'must be at least 1').max(200),
  }),
  /** Each host is one person's. */
  z.strictObject({ ...ofEveryKind, kind: z.literal('dedicated') }),
]);
export type NewPool = z.output<typeof newPoolSchema>;
export type NewPoolBody = z.input<typeof newPoolSchema>;

/** The kept settings of a new pool. */
export function settingsOf(pool: NewPool): PoolSettings {
  const fields = Object.keys(poolSettingsSchema.shape) as (keyof PoolSettings)[];
  return Object.fromEntries(fields.map((field) => [field, pool[field]])) as unknown as PoolSettings;
}
