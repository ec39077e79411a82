/** One host: its state, and what is on it by what its agent reported last. */
import { z } from 'zod';
import { hostStates } from '@vatline/core/pool/service-state';
import { bytes, done, endpoint, instant, text } from '../endpoint.ts';
import { dyeSchema } from '../image.ts';

export const hostSchema = z.object({
  id: z.string(),
  name: z.string(),
  state: z.enum(hostStates),
  /** The dye it runs; while it is at work, the one it ran last. */
  dye: dyeSchema,
  blend: z.number(),
  /** The dye it is to run when a rollout has it in its list. */
  nextDye: dyeSchema.nullable(),
  sessions: z.number(),
  note: z.string(),
  /** Whose it is; null where it is nobody's own. */
  owner: z.string().nullable(),
  site: z.string(),
  /** When its agent reported last; null for one that never did. */
  lastReport: instant.nullable(),
  /** Whether that was over two checks ago. */
  isSilent: z.boolean(),
  /** Since when it is on; null while it is off. */
  upSince: instant.nullable(),
  /** Its own disks now. */
  ownBytes: bytes,
  growsBytesPerDay: bytes,
  /** Of a host that streams its image, the size of the disk that takes what it writes; its own bytes are on that. */
  scratchBytes: bytes.nullable(),
});
export type Host = z.infer<typeof hostSchema>;

/** A host as a cell of the grid: short names, since a pool can hold ten thousand. */
export const cellSchema = z.object({
  id: z.string(),
  name: z.string(),
  dye: dyeSchema,
  next: dyeSchema.nullable(),
  state: z.enum(hostStates),
});
export type Cell = z.infer<typeof cellSchema>;

export const hostMountsSchema = z.object({
  name: z.string(),
  pool: z.string(),
  mounts: z.array(
    z.object({
      digest: z.string(),
      share: z.string(),
      since: instant,
      /** The package version with this container; null for one that is not in the library any more. */
      version: z
        .object({ id: z.string(), packageId: z.string(), name: z.string(), version: z.string() })
        .nullable(),
      /** Names that people open it by. */
      entryPoints: z.array(z.string()),
      /** Sessions from before that hold it, where new ones do not get it any more; null where they do. */
      heldBy: z.number().nullable(),
      /** Whether the host's blend has it. */
      isWanted: z.boolean(),
    }),
  ),
  /** Versions of its blend that are not mounted. */
  missing: z.array(z.object({ name: z.string(), version: z.string() })),
  nextCheck: instant,
  /** Whether its agent has been silent for over two checks. */
  isSilent: z.boolean(),
});
export type HostMounts = z.infer<typeof hostMountsSchema>;

const hostParams = z.strictObject({ name: text });

export const hostEndpoints = {
  search: endpoint({
    method: 'get',
    path: '/hosts',
    summary: 'Hosts whose names hold a text',
    dependsOn: ['pool'],
    query: z.strictObject({
      q: text.default(''),
      limit: z.coerce.number().int().min(1).max(100).default(20),
    }),
    response: z.array(z.object({ name: z.string(), pool: z.string() })),
  }),
  mounts: endpoint({
    method: 'get',
    path: '/hosts/:name/mounts',
    summary: 'What a host has mounted, from where and since when, against what its blend says',
    dependsOn: ['pool', 'package', 'estate'],
    params: hostParams,
    response: hostMountsSchema,
  }),
  people: endpoint({
    method: 'get',
    path: '/hosts/:name/people',
    summary: 'Who has a session on a host, and since when',
    dependsOn: ['pool', 'estate'],
    params: hostParams,
    response: z.array(z.object({ account: z.string(), name: z.string(), since: instant })),
  }),
  handOver: endpoint({
    method: 'put',
    path: '/hosts/:name/owner',
    summary: 'Make a dedicated host somebody’s own, or nobody’s',
    changes: ['pool', 'estate'],
    params: hostParams,
    body: z.strictObject({ account: text.nullable() }),
    response: done,
  }),
  check: endpoint({
    method: 'post',
    path: '/hosts/:name/check',
    summary: 'Let the agent of a host look now for what it is to do',
    changes: ['pool', 'estate'],
    params: hostParams,
    response: z.object({ error: z.string().nullable() }),
  }),
};
