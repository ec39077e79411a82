import { z } from 'zod';
import { chosen, done, endpoint, idParams, text } from './endpoint.ts';

export const targetKinds = ['desktop', 'package'] as const;
export type TargetKind = (typeof targetKinds)[number];

export const assignmentSchema = z.object({
  id: z.string(),
  group: z.string(),
  poolId: z.string(),
  pool: z.string(),
  /** What is given on that pool: its desktop, with the name and identifier of the pool, or a package. */
  target: z.object({ kind: z.enum(targetKinds), id: z.string(), name: z.string() }),
  /** People the group reaches. */
  users: z.number(),
});
export type Assignment = z.infer<typeof assignmentSchema>;

export const grantSchema = z.object({
  kind: z.enum(['desktop', 'app']),
  poolId: z.string(),
  pool: z.string(),
  /** Of the pool for a desktop, of the package for an app. */
  id: z.string(),
  name: z.string(),
  given: z.boolean(),
  chain: z.array(z.object({ holds: z.boolean(), text: z.string() })),
  entryPoints: z.array(z.object({ id: z.string(), name: z.string() })),
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
      target: z.discriminatedUnion('kind', [
        z.strictObject({ kind: z.literal('desktop') }),
        z.strictObject({ kind: z.literal('package'), id: chosen('a package') }),
      ]),
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
