/** What a pool is: who has its hosts, how they are made, and what a new one is to be. */
import { z } from 'zod';
import { chosen, id, text } from '../endpoint.ts';

export const poolKinds = ['pooled', 'dedicated'] as const;
export type PoolKind = (typeof poolKinds)[number];

/** How a host's disk comes from the image. */
export const cloneKinds = ['full', 'linked', 'network'] as const;
export type CloneKind = (typeof cloneKinds)[number];

/** What of a pool stands at a place: the disks of its hosts. */
export const placementRoles = ['disks'] as const;
export type PlacementRole = (typeof placementRoles)[number];

/** Half typed, it may be anything that a field lets in; what it should be is a fault at it. */
const draftNumber = z.number().min(-1e15).max(1e15);

const draft = {
  name: text,
  imageVersionId: id,
  kind: z.enum(poolKinds),
  clone: z.enum(['full', 'linked']),
  pattern: text,
  start: draftNumber,
  count: draftNumber,
  ou: text,
  site: text,
  datastore: text,
  processors: draftNumber,
  sessionLimit: draftNumber,
};

/** A pool that is still being thought of: anything may be missing, and nothing is judged yet. */
export const poolDraftSchema = z.strictObject(draft).partial();
export type PoolDraft = z.infer<typeof poolDraftSchema>;

const ofEveryKind = {
  name: draft.name
    .min(1, 'The name is empty')
    .max(40)
    .regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'must be small letters, digits and single hyphens'),
  imageVersionId: chosen('an image version'),
  clone: draft.clone,
  pattern: draft.pattern,
  start: draft.start.int().min(-1_000_000).max(1_000_000_000_000_000),
  count: draft.count.int().min(1, 'must be at least 1').max(10_000, 'must be at most 10,000'),
  ou: draft.ou.min(1, 'choose an organisational unit'),
  site: draft.site.min(1, 'choose a site'),
  datastore: draft.datastore.min(1, 'choose a datastore'),
  processors: draft.processors.int().min(1, 'must be at least 1').max(64),
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
export type NewPool = z.infer<typeof newPoolSchema>;
