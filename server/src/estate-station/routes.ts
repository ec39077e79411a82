import { callKinds, estateEndpoints, type Site } from '@vatline/contract/estate';
import { DONE } from '../platform/change.ts';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { pageFrom, placeIn } from '../platform/page.ts';
import { invalid, notFound } from '../platform/problem.ts';
import type { PoolStore } from '../pool/pools.ts';
import { poolSummaries } from '../pool/present.ts';
import { peopleReached } from '../access/assignments.ts';
import type { SiteReport } from '../estate/driver/sites.ts';
import type { EstateControl } from '../estate/control.ts';
import { EstateError } from '../estate/driver/operations.ts';
import { practiceOnly } from '../platform/practice-only.ts';

export function estateRoutes(door: Door, parts: Parts, pools: PoolStore): void {
  const { estate, control } = parts;
  const need = (): EstateControl => practiceOnly(parts);
  door.serve(estateEndpoints.assessment, () => ({ csv: need().assessment() }));

  door.serve(estateEndpoints.get, async () => {
    const sites = await estate.hypervisor.sites();
    const summaries = await poolSummaries(parts, pools);
    return {
      sites: sites.map(plainSite),
      licences: (await estate.licences.keys()).map((key) => ({ ...key })),
      shares: (await estate.share.shares()).map(({ price: _price, scale: _scale, ...share }) => share),
      directory: { root: estate.directory.root, ...(await estate.directory.counts()) },
      agents: {
        reporting: await estate.agents.reporting(),
        silent: [...(await estate.agents.silent())],
        nextCheck: await estate.agents.nextCheck(),
      },
      sessions: summaries.reduce((sum, pool) => sum + pool.sessions, 0),
      faults: control ? (await control.faults()).map((fault) => ({ ...fault })) : [],
    };
  });

  door.serve(estateEndpoints.groups, async () => {
    const groups = await estate.directory.groups();
    const reach = peopleReached(groups);
    return groups.map((group) => ({
      name: group.name,
      users: reach.get(group.name) ?? 0,
      groups: [...group.groups],
    }));
  });

  door.serve(estateEndpoints.users, async ({ query: { q, limit, after } }) => {
    const [name, account] = placeIn(after, ['string', 'string']) ?? [];
    const { people, total } = await estate.directory.people(q, {
      // One more says whether there is another page.
      limit: limit + 1,
      ...(name === undefined ? {} : { after: { name: String(name), account: String(account) } }),
    });
    return pageFrom(people, { limit, total, placeOf: (one) => [one.name, one.account] }, (shown) =>
      shown.map((person) => ({ ...person })),
    );
  });

  door.serve(estateEndpoints.addFault, async ({ body }) => {
    await checkTarget(parts, body.kind, body.target);
    const fault = await need().addFault(body);
    await noteFault(parts, `Fault on: ${body.kind} ${body.target}`);
    return fault;
  });

  door.serve(estateEndpoints.changeInSecret, async ({ body: { host, change } }) => {
    try {
      await need().behindOurBack(host, change);
    } catch (error) {
      if (!(error instanceof EstateError)) throw error;
      throw invalid([{ path: 'host', message: error.message }]);
    }
    return DONE;
  });

  door.serve(estateEndpoints.removeFault, async ({ params }) => {
    const fault = (await need().faults()).find(({ id }) => id === params.id);
    if (!fault || !(await need().removeFault(params.id))) throw notFound('such fault');
    await noteFault(parts, `Fault off: ${fault.kind} ${fault.target}`);
    return DONE;
  });
}

/** Without what the interface of the driver calls readonly. */
function plainSite(site: SiteReport): Site {
  const copies = <T extends object>(rows: readonly T[]) => rows.map((row) => ({ ...row }));
  return {
    ...site,
    networks: copies(site.networks),
    datastores: copies(site.datastores),
    sizes: copies(site.sizes),
  };
}

function noteFault({ journal, estate }: Parts, text: string): Promise<void> {
  return journal.note({ at: estate.clock.now(), kind: 'estate', subject: 'estate', text, link: '/estate' });
}

async function checkTarget(parts: Parts, kind: string, target: string): Promise<void> {
  const refuse = (message: string) => invalid([{ path: 'target', message }]);
  if (kind === 'fail next' && !callKinds.some((call) => call === target))
    throw refuse(`there is no call "${target}"; choose one of ${callKinds.join(', ')}`);
  if (
    kind === 'quota exhausted' &&
    !(await parts.estate.hypervisor.sites()).some((site) => site.name === target)
  )
    throw refuse(`there is no site ${target}`);
  if (
    kind === 'account locked' &&
    !(await parts.estate.directory.accounts()).some((account) => account.name === target)
  )
    throw refuse(`there is no account ${target}`);
  if (
    kind === 'slow sign-ins' &&
    !(await parts.db.selectFrom('pool').select('id').where('name', '=', target).executeTakeFirst())
  )
    throw refuse(`there is no pool ${target}`);
  if (kind === 'agent silent' && !(await parts.estate.directory.computerNames()).includes(target))
    throw refuse(`there is no host ${target}`);
}
