/** Who calls: one person for now, in one of the roles of the trade. */
import { z } from 'zod';
import { roles } from '@vatline/core/roles';
import { endpoint } from './endpoint.ts';

export const roleSchema = z.enum(roles);

const callerSchema = z.strictObject({
  /** What the person acts as: kept by the server, for all windows alike. */
  role: roleSchema,
});
export type Caller = z.infer<typeof callerSchema>;

export const callerEndpoints = {
  get: endpoint({
    method: 'get',
    path: '/caller',
    summary: 'Who the server takes the one who asks for',
    response: callerSchema,
    dependsOn: ['caller'],
  }),
  actAs: endpoint({
    method: 'put',
    path: '/caller',
    summary: 'Act as somebody else from now on',
    body: callerSchema,
    response: callerSchema,
    changes: ['caller'],
  }),
};
