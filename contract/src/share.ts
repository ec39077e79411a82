/** File shares that containers lie on: what is asked of them, and who may do what. */
import { z } from 'zod';
import { bytes, done, endpoint, text } from './endpoint.ts';

export const shareRightSchema = z.enum(['write', 'read', 'nothing']);
export const shareRightsSchema = z.strictObject({
  hosts: shareRightSchema,
  packagers: shareRightSchema,
  users: shareRightSchema,
});
export type ShareRights = z.infer<typeof shareRightsSchema>;

/** A package as the pools that attach it have it. */
export const attachedPackageSchema = z.object({
  versionId: z.string(),
  name: z.string(),
  version: z.string(),
  /** As they count on its share. */
  containerBytes: bytes,
  entryPoints: z.number(),
  attachedAhead: z.boolean(),
  operations: z.number(),
  mountMs: z.number(),
  registerMs: z.number(),
  /** Host that it was measured on; null where the figures are worked out from its size. */
  measuredOn: z.string().nullable(),
});
export type AttachedPackage = z.infer<typeof attachedPackageSchema>;

export const shareDemandSchema = z.object({
  shares: z.array(
    z.object({
      name: z.string(),
      capacityBytes: bytes,
      usedBytes: bytes,
      /** Bytes that each byte of a container counts for there; 1 where files are as large as they are. */
      scale: z.number(),
      operationsLimit: z.number(),
      price: z.number(),
      rights: shareRightsSchema,
      /** What is wrong with the rights, worst first; empty when nothing is. */
      faults: z.array(z.string()),
      containers: z.number(),
    }),
  ),
  /** Bytes of every container that is kept on a share, as they count there. */
  versionBytes: z.array(bytes),
  pools: z.array(
    z.object({
      name: z.string(),
      hosts: z.number(),
      expected: z.array(z.number()),
      packages: z.array(attachedPackageSchema),
    }),
  ),
});
export type ShareDemandFacts = z.infer<typeof shareDemandSchema>;

export const shareEndpoints = {
  demand: endpoint({
    method: 'get',
    path: '/shares',
    summary: 'File shares, and what pools and their packages ask of them',
    dependsOn: ['package', 'estate', 'pool'],
    response: shareDemandSchema,
  }),
  setRights: endpoint({
    method: 'put',
    path: '/shares/:name/rights',
    summary: 'Set who may read and write a share',
    changes: ['package', 'estate'],
    params: z.strictObject({ name: text }),
    body: shareRightsSchema,
    response: done,
  }),
};
