/** "Which versions and hosts hold application X below version Y" over everything. */
import { z } from 'zod';
import { endpoint, text } from './endpoint.ts';
import { packageStates } from '@vatline/core/package/version-state';
import { versionStates } from '@vatline/core/image/version-state';
import { dyeSchema } from './image.ts';

export const foundApplicationSchema = z.object({
  publisher: z.string(),
  name: z.string(),
  version: z.string(),
  /** Image versions that hold it. */
  versions: z.array(
    z.object({
      versionId: z.string(),
      lineId: z.string(),
      line: z.string(),
      number: z.number(),
      dye: dyeSchema,
      state: z.enum(versionStates),
    }),
  ),
  /** Containers that bring it. */
  containers: z.array(
    z.object({ packageId: z.string(), packageVersionId: z.string(), state: z.enum(packageStates) }),
  ),
  /** Hosts that have it now, in the image they run or attached. */
  pools: z.array(z.object({ pool: z.string(), hosts: z.number() })),
});
export type FoundApplication = z.infer<typeof foundApplicationSchema>;

const foundApplicationsSchema = z.object({
  found: z.array(foundApplicationSchema),
  /** Hosts that have any of them, each once. */
  hosts: z.number(),
  /** Whether there are more than were asked for. */
  more: z.boolean(),
});
export type FoundApplications = z.infer<typeof foundApplicationsSchema>;

export const applicationSearchEndpoints = {
  search: endpoint({
    method: 'get',
    path: '/applications',
    summary: 'Where applications are: "zinnet below 141" or a part of a name',
    dependsOn: ['line', 'pool', 'package'],
    query: z.strictObject({
      q: text.default(''),
      limit: z.coerce.number().int().min(1).max(500).default(100),
    }),
    response: foundApplicationsSchema,
  }),
};
