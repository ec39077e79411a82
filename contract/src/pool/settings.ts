/** Changing what a pool is, once it is there. */
import { z } from 'zod';
import { cloneKinds } from '@vatline/core/pool/clone-storage';
import { basedOn, endpoint, idParams, keptAs } from '../endpoint.ts';
import { poolKinds, poolSettingsSchema } from './kinds.ts';

export const changedSettingsSchema = poolSettingsSchema.extend({
  kind: z.enum(poolKinds),
  clone: z.enum(cloneKinds),
  sessionLimit: z
    .number()
    .int('must be a whole number')
    .min(1, 'must be at least 1')
    .max(200, 'must be at most 200'),
});
export type ChangedSettings = z.output<typeof changedSettingsSchema>;

export const poolSettingsEndpoints = {
  change: endpoint({
    method: 'put',
    path: '/pools/:id/settings',
    summary: 'Change what a pool is: limits at once, how hosts are made for new ones',
    changes: ['pool:{id}', 'pool'],
    params: idParams,
    body: z.strictObject({ settings: changedSettingsSchema, basedOn }),
    response: keptAs,
  }),
};
