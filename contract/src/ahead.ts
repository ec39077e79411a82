/** What will be another for a pool, a group or a person at an instant, from everything that is planned. */
import { z } from 'zod';
import { changeStandings } from '@vatline/core/rollout/ahead';
import { packageChanges } from '@vatline/core/rollout/blends/compare';
import { endpoint, instant, text } from './endpoint.ts';
import { stretchInstant } from './home.ts';
import { dyeSchema } from './image.ts';

export const aheadKinds = ['pool', 'group', 'person'] as const;
export type AheadKind = (typeof aheadKinds)[number];

const imageSchema = z.object({ line: z.string(), number: z.number(), dye: dyeSchema });

const packageChangeSchema = z.object({
  change: z.enum(packageChanges),
  name: z.string(),
  /** Versions; null for one that was not there, or is no more. */
  from: z.string().nullable(),
  to: z.string().nullable(),
});
export type PackageAhead = z.infer<typeof packageChangeSchema>;

const differenceSchema = z.object({
  headline: z.string(),
  image: z.object({ from: imageSchema, to: imageSchema }).nullable(),
  /** Of a group or a person only those that they may open. */
  packages: z.array(packageChangeSchema),
});

export const changeAheadSchema = z.object({
  kind: z.enum(['rollout', 'ring', 'after a cut']),
  title: z.string(),
  to: z.string(),
  /** Hosts that it takes. */
  hosts: z.number(),
  isWhole: z.boolean(),
  begins: instant.nullable(),
  /** 9 in 10. */
  done: instant.nullable(),
  /** Why nobody knows when; empty where it is known. */
  waitsFor: z.string(),
  standing: z.enum(changeStandings),
  /** Null where the image is yet to be cut, or comes behind one that is. */
  difference: differenceSchema.nullable(),
});
export type ChangeAhead = z.infer<typeof changeAheadSchema>;

export const poolAheadSchema = z.object({
  poolId: z.string(),
  pool: z.string(),
  hosts: z.number(),
  /** Whether its desktop reaches them. */
  hasDesktop: z.boolean(),
  /** The groups by which it does, the nearest first; none of a pool itself. */
  through: z.array(z.string()),
  now: imageSchema.nullable(),
  /** On all hosts by then, 9 in 10; null where that is yet to be cut. */
  then: imageSchema.nullable(),
  /** Between both; null where one is not known. */
  difference: differenceSchema.nullable(),
  changes: z.array(changeAheadSchema),
});
export type PoolAhead = z.infer<typeof poolAheadSchema>;

export const aheadSchema = z.object({
  of: z.enum(aheadKinds),
  name: z.string(),
  at: instant,
  pools: z.array(poolAheadSchema),
});
export type Ahead = z.infer<typeof aheadSchema>;

export const aheadEndpoints = {
  ahead: endpoint({
    method: 'get',
    path: '/ahead',
    summary: 'What will be another for a pool, a group or a person at an instant, from everything planned',
    dependsOn: ['rollout', 'line', 'pool', 'calendar', 'access', 'package', 'estate'],
    query: z.strictObject({
      of: z.enum(aheadKinds),
      /** The pool's identifier, the group's name, or the person's account. */
      who: text.min(1, 'choose whom it is about'),
      at: stretchInstant,
    }),
    response: aheadSchema,
  }),
};
