import { z } from 'zod';
import { chosen, done, endpoint, id, idParams, text } from './endpoint.ts';

export const assignmentSchema = z.object({
  id: z.string(),
  group: z.string(),
  poolId: z.string(),
  pool: z.string(),
  /** The package assigned on that pool; null for the desktop itself. */
  packageId: z.string().nullable(),
  package: z.string().nullable(),
  /** People the group reaches. */
  users: z.number(),
});
export type Assignment = z.infer<typeof assignmentSchema>;

export const grantSchema = z.object({
  kind: z.enum(['desktop', 'app']),
  pool: z.string(),
  name: z.string(),
  given: z.boolean(),
  chain: z.array(z.object({ holds: z.boolean(), text: z.string() })),
  entryPoints: z.array(z.string()),
});

export const seeAsSchema = z.object({
  user: z.object({ account: z.string(), name: z.string(), branch: z.string(), role: z.string() }),
  groups: z.array(z.string()),
  cycles: z.array(z.array(z.string())),
  grants: z.array(grantSchema),
});
export type SeeAs = z.infer<typeof seeAsSchema>;

export const accessEndpoints = {
  list: endpoint({
    method: 'get',
    path: '/assignments',
    summary: 'Who is assigned to what',
    dependsOn: ['access'],
    response: z.array(assignmentSchema),
  }),
  assign: endpoint({
    method: 'post',
    path: '/assignments',
    summary: 'Assign a group to the desktop of a pool, or to a package on it',
    changes: ['access'],
    body: z.strictObject({
      group: text.min(1, 'choose a group'),
      poolId: chosen('a pool'),
      packageId: id.nullable(),
    }),
    response: assignmentSchema,
  }),
  remove: endpoint({
    method: 'delete',
    path: '/assignments/:id',
    summary: 'Take an assignment away',
    changes: ['access'],
    params: idParams,
    response: done,
  }),
  seeAs: endpoint({
    method: 'get',
    path: '/see-as',
    summary: 'The desktops and apps of a person, and why',
    dependsOn: ['access', 'pool', 'package'],
    query: z.strictObject({ user: text.min(1, 'choose a person') }),
    response: seeAsSchema,
  }),
};
