import { accessEndpoints } from '@vatline/contract/access';
import { memberships, seeAs } from '@vatline/core/access/see-as';
import { DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid } from '../platform/problem.ts';
import { assign, assignments, unassign } from './assignments.ts';
import { poolAccess } from './pool-access.ts';

export function accessRoutes(door: Door, parts: Parts): void {
  const { estate } = parts;

  door.serve(accessEndpoints.list, () => assignments(parts));

  door.serve(accessEndpoints.assign, ({ body }) => assign(parts, body));

  door.serve(accessEndpoints.remove, async ({ params }) => {
    await unassign(parts, params.id);
    return DONE;
  });

  door.serve(accessEndpoints.seeAs, async ({ query }) => {
    const user = await estate.directory.person(query.user);
    if (!user)
      throw invalid([{ path: 'user', message: `The directory has nobody with the account ${query.user}` }]);
    const groups = await estate.directory.groups();
    const { paths, cycles } = memberships(user.account, groups);
    const grants = seeAs(user.account, groups, await poolAccess(parts));
    return {
      user,
      groups: [...paths.keys()],
      cycles: cycles.map((cycle) => [...cycle]),
      grants: grants.map((grant) => ({
        ...grant,
        chain: grant.chain.map((link) => ({ ...link })),
        entryPoints: grant.entryPoints.map((entry) => ({ ...entry })),
      })),
    };
  });
}
