/** Datastores: who takes how much, what was promised, and the disks that a host stands on. */
import { z } from 'zod';
import { diskRoles } from '@vatline/core/pool/disk-roles';
import { bytes, endpoint, text } from '../endpoint.ts';

const useSchema = z.object({
  kind: z.enum(['pool', 'parent', 'build machine', 'other']),
  name: z.string(),
  bytes,
  disks: z.number(),
});

export const datastoreSchema = z.object({
  site: z.string(),
  name: z.string(),
  capacityBytes: bytes,
  usedBytes: bytes,
  /** What everything on it may come to take until its next rebuild. */
  promisedBytes: bytes,
  overcommit: z.number(),
  operations: z.object({ total: z.number(), used: z.number() }),
  /** Money for a gigabyte and month. */
  price: z.number(),
  /** The largest first; they add up to the used bytes. */
  uses: z.array(useSchema),
  /** Hosts on it whose disks grow from day to day. */
  growingHosts: z.number(),
});
export type Datastore = z.infer<typeof datastoreSchema>;

export const hostDiskSchema = z.object({
  role: z.enum(diskRoles),
  site: z.string(),
  datastore: z.string(),
  bytes,
  /** What it is to people, such as the version of a parent. */
  name: z.string(),
  /** Hosts that stand on it; of a parent all its clones. */
  standOn: z.number(),
});
export type HostDisk = z.infer<typeof hostDiskSchema>;

export const datastoreEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/datastores',
    summary: 'Datastores: who takes how much, and what was promised',
    dependsOn: ['pool', 'line', 'estate'],
    response: z.object({
      datastores: z.array(datastoreSchema),
      /** What growth is drawn from. */
      growth: z.object({ medianBytesPerDay: bytes, p90BytesPerDay: bytes }),
    }),
  }),
  ofHost: endpoint({
    method: 'get',
    path: '/hosts/:name/disks',
    summary: 'The disks that a host stands on, the lowest first',
    dependsOn: ['pool', 'estate'],
    params: z.strictObject({ name: text }),
    response: z.array(hostDiskSchema),
  }),
};
