/** The input files of `vatline fit`: a pool that is wanted, and the estate it is to stand in. */
import { z } from 'zod';
import { fixedBytesOn, perHostBytes, type HostDisks } from '@vatline/core/pool/clone-storage';
import type { FitRequest, SiteRoom } from '@vatline/core/pool/fit';
import { freeNames } from '@vatline/core/pool/names';
import { ok, refuse, type Result } from '@vatline/core/result';
import { datastoreFileSchema, fileBytes, fileDays, fileHosts } from './storage-file.ts';

const name = z.string().min(1, 'is empty').max(200, 'has over 200 characters');
const amount = z.strictObject({ total: z.number().min(0).max(1e15), used: z.number().min(0).max(1e15) });
const none = { total: 0, used: 0 };

export const fitPoolSchema = z.strictObject({
  count: fileHosts,
  pattern: name,
  start: z.number().int().min(0, 'must be at least 0').max(1e15).default(1),
  processors: z.number().int().min(1, 'must be at least 1').max(1_000),
  memoryBytes: fileBytes,
  graphics: z.number().int().min(0).max(64).default(0),
  site: name,
  network: name,
  datastore: name,
  clone: z.enum(['full', 'linked', 'network']),
  imageBytes: fileBytes,
  swapBytes: fileBytes.default(0),
  dataBytes: fileBytes.default(0),
  throwawayBytes: fileBytes.default(0),
  growthBytesPerDay: fileBytes.default(0),
  days: fileDays.default(0),
  scratchBytes: fileBytes.default(0),
});
export type FitPool = z.output<typeof fitPoolSchema>;

/** Estates of a thousand sites, and names of all the computers of a large directory. */
export const fitEstateSchema = z.strictObject({
  sites: z
    .array(
      z.strictObject({
        name,
        cores: amount,
        memoryBytes: amount,
        graphics: amount.default(none),
        networks: z.array(z.strictObject({ name, addresses: amount })).max(1_000),
        datastores: z.array(datastoreFileSchema).max(1_000),
      }),
    )
    .max(1_000, 'at most 1,000'),
  licences: z.strictObject({ left: z.number().int().min(0).max(1e9).nullable() }).default({ left: null }),
  names: z.array(z.string().max(200)).max(1_000_000, 'at most 1,000,000').default([]),
});
export type FitEstate = z.output<typeof fitEstateSchema>;

/** The question for `fitHosts`. Faults: of the pattern, or a place that the estate does not have. */
export function fitQuestion(
  pool: FitPool,
  estate: FitEstate,
): Result<{ request: FitRequest; site: SiteRoom }> {
  const found = estate.sites.find((site) => site.name === pool.site);
  if (!found) return refuse('site', `the estate has no site ${pool.site}`);
  const { networks, datastores } = found;
  if (!networks.some((row) => row.name === pool.network))
    return refuse('network', `${found.name} has no network ${pool.network}`);
  if (!datastores.some((row) => row.name === pool.datastore))
    return refuse('datastore', `${found.name} has no datastore ${pool.datastore}`);
  const names = freeNames({ pattern: pool.pattern, start: pool.start, taken: estate.names });
  if (!names.ok) return names;
  const site = { ...found, datastores: datastores.map((store) => ({ ...store, operations: none })) };
  const disks: HostDisks = pool;
  const onOne = { ...disks, hosts: pool.count, streamingStores: 1, datastores: [] };
  return ok({
    site,
    request: {
      count: pool.count,
      size: pool,
      network: pool.network,
      disks: [
        {
          datastore: pool.datastore,
          fixedBytes: fixedBytesOn(pool.clone, onOne, 0),
          perHostBytes: perHostBytes(pool.clone, disks),
          operationsPerHost: 0,
        },
      ],
      licencesLeft: estate.licences.left,
      namesFree: names.value,
    },
  });
}
