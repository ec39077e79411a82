/** Capacity: what each thing of the estate is used by, and more of it from providers. */
import { z } from 'zod';
import { bytes, endpoint, instant, text } from './endpoint.ts';
import { siteSchema } from './estate.ts';

const regionSchema = z.object({
  name: z.string(),
  /** From there to the directory and back. */
  milliseconds: z.number(),
  quota: z.object({ processors: z.number(), memoryBytes: bytes, graphics: z.number() }),
  sizes: siteSchema.shape.sizes,
  datastores: z.array(
    z.object({
      name: z.string(),
      capacityBytes: bytes,
      operations: z.number(),
      price: z.number(),
      overcommit: z.number(),
    }),
  ),
  /** The site that was made there; null for a region that is free. */
  site: z.string().nullable(),
});
export type Region = z.infer<typeof regionSchema>;

const networkSchema = z.object({ name: z.string(), range: z.string() });

export const siteRequestSchema = z.object({
  id: z.string(),
  name: z.string(),
  provider: z.string(),
  region: z.string(),
  networks: z.array(networkSchema),
  askedAt: instant,
  state: z.enum(['asked', 'ready', 'refused']),
  /** Why not; empty where it was made. */
  answer: z.string(),
  answeredAt: instant.nullable(),
});
export type SiteRequest = z.infer<typeof siteRequestSchema>;

const useSchema = z.object({
  /** What is used: a site, a network, a machine size, a key, a streaming store or a chassis. */
  what: z.enum(['site', 'network', 'size', 'key', 'store', 'chassis']),
  /** Of which site; empty where it is on none. */
  site: z.string(),
  name: z.string(),
  poolId: z.string(),
  pool: z.string(),
  hosts: z.number(),
});
export type CapacityUse = z.infer<typeof useSchema>;

export const capacitySchema = z.object({
  providers: z.array(z.object({ name: z.string(), regions: z.array(regionSchema) })),
  requests: z.array(siteRequestSchema),
  uses: z.array(useSchema),
});
export type Capacity = z.infer<typeof capacitySchema>;

/** More networks than this nobody routes to one site by hand. */
export const MOST_NETWORKS = 8;

const newSiteSchema = z.strictObject({
  provider: text.min(1, 'choose a provider'),
  region: text.min(1, 'choose a region'),
  name: text
    .min(1, 'The name is empty')
    .max(40, 'has over 40 characters')
    .regex(/^[a-z0-9]+(-[a-z0-9]+)*$/, 'must be small letters, digits and single hyphens'),
  networks: z
    .array(z.strictObject({ name: text.max(40, 'has over 40 characters'), range: text.max(40) }))
    .min(1, 'a site needs a network')
    .max(MOST_NETWORKS),
});
export type NewSiteBody = z.infer<typeof newSiteSchema>;

export const capacityEndpoints = {
  get: endpoint({
    method: 'get',
    path: '/estate/capacity',
    summary: 'Providers with their regions, sites that were asked for, and what uses what',
    dependsOn: ['estate', 'pool'],
    response: capacitySchema,
  }),
  addSite: endpoint({
    method: 'post',
    path: '/estate/sites',
    summary: 'Take a region of a provider as a site of one’s own',
    changes: ['estate'],
    body: newSiteSchema,
    response: z.object({ id: z.string() }),
  }),
};
