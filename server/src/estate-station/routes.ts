import { callKinds, estateEndpoints, type Clock } from '@vatline/contract/estate';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid, notFound } from '../platform/problem.ts';
import type { PoolStore } from '../pool/pools.ts';
import { poolSummaries } from '../pool/present.ts';
import { peopleReached } from '../access/assignments.ts';
import type { EstateControl } from '../estate/control.ts';

/** `windowEnd` gives the end of the window that is open or comes next, over all rollouts. */
export function estateRoutes(
  door: Door,
  parts: Parts,
  pools: PoolStore,
  windowEnd: () => Promise<number | null>,
): void {
  const { estate, control, journal } = parts;
  const need = (): EstateControl => {
    if (!control) throw conflict('This estate is real; its clock and faults are not ours to set');
    return control;
  };
  const clock = (): Clock => ({
    now: estate.clock.now(),
    zone: estate.clock.zone,
    rate: control?.rate ?? 1,
    jumpingTo: control?.jumpingTo ?? null,
    trouble: parts.trouble.current,
  });

  door.serve(estateEndpoints.clock, clock);
  door.serve(estateEndpoints.assessment, () => ({ csv: need().assessment() }));

  door.serve(estateEndpoints.setClock, async ({ body }) => {
    switch (body.action) {
      case 'rate':
        await need().setRate(body.rate);
        break;
      case 'next event': {
        const next = await need().nextEvent();
        if (next === null)
          throw conflict('Nothing is planned and nothing is under way, so there is no next event');
        need().jumpTo(next);
        break;
      }
      case 'end of window': {
        const end = await windowEnd();
        if (end === null) throw conflict('No rollout is open, so there is no window to go to the end of');
        need().jumpTo(end);
      }
    }
    return clock();
  });

  door.serve(estateEndpoints.get, async () => {
    const sites = await estate.hypervisor.sites();
    const summaries = await poolSummaries(parts, pools);
    return {
      sites: sites.map((site) => ({ ...site, datastores: site.datastores.map((store) => ({ ...store })) })),
      shares: (await estate.share.shares()).map(({ price: _price, ...share }) => share),
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

  door.serve(estateEndpoints.units, async () =>
    (await estate.directory.units()).map((unit) => ({ ...unit })),
  );

  door.serve(estateEndpoints.groups, async () => {
    const groups = await estate.directory.groups();
    const reach = peopleReached(groups);
    return groups.map((group) => ({
      name: group.name,
      users: reach.get(group.name) ?? 0,
      groups: [...group.groups],
    }));
  });

  door.serve(estateEndpoints.users, async ({ query }) =>
    (await estate.directory.people(query.q, query.limit)).map((person) => ({ ...person })),
  );

  door.serve(estateEndpoints.addFault, async ({ body }) => {
    await checkTarget(parts, body.kind, body.target);
    const fault = await need().addFault(body);
    await journal.note({
      at: estate.clock.now(),
      kind: 'estate',
      subject: 'estate',
      text: `Fault on: ${body.kind} ${body.target}`,
      link: '/estate',
    });
    return fault;
  });

  door.serve(estateEndpoints.removeFault, async ({ params }) => {
    if (!(await need().removeFault(params.id))) throw notFound('such fault');
    return { done: true as const };
  });
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
  if (kind === 'agent silent' && !(await parts.estate.directory.computerNames()).includes(target))
    throw refuse(`there is no host ${target}`);
}
