/** What an installation would do on every host of its rule group, by what is on them now. */
import type { InstallForecast, RemovalForecast } from '@vatline/contract/installation';
import { evaluate, isInHosts, mayBegin } from '@vatline/core/installed/evaluate';
import { installationFaults, type Installation } from '@vatline/core/installed/installation';
import { evaluateRemoval } from '@vatline/core/installed/removal';
import type { Parts } from '../platform/parts.ts';
import type { InstallationStore } from './store.ts';

export async function forecastInstallation(
  parts: Parts,
  store: InstallationStore,
  id: string,
  installation: Installation,
): Promise<InstallForecast> {
  const order = await store.order(id, installation);
  const hosts = await hostsOf(parts, installation.hosts);
  const { installer, clock } = parts.estate;
  const facts = await installer.facts(hosts.map((host) => host.name));
  const begin = mayBegin(clock.now(), quietOf(installation), installation.deadline, clock.zone);
  return {
    faults: [...installationFaults(installation), ...(order.ok ? [] : order.error)],
    order: order.ok ? order.value.map((one) => `${one.installation.name} ${one.installation.version}`) : [],
    hosts: hosts.flatMap(({ name, pool }): InstallForecast['hosts'] => {
      const own = facts.get(name);
      if (!own)
        return [
          { host: name, pool, state: 'not applicable', why: ['its agent told nothing yet'], from: null },
        ];
      const verdict = evaluate(installation, own);
      switch (verdict.state) {
        case 'to install':
          return [
            {
              host: name,
              pool,
              state: verdict.state,
              why: verdict.replaces.map((one) => `in place of ${one}`),
              from: begin,
            },
          ];
        case 'detected already':
          return [{ host: name, pool, state: verdict.state, why: [...verdict.by], from: null }];
        default:
          return [{ host: name, pool, state: verdict.state, why: [...verdict.why], from: null }];
      }
    }),
  };
}

/** From which hosts it would be taken away; hosts whose agents told nothing yet are left out. */
export async function forecastRemoval(
  parts: Parts,
  store: InstallationStore,
  id: string,
): Promise<RemovalForecast> {
  const installation = await store.installation(id);
  const others = (await store.all()).map((row) => row.installation);
  const hosts = await hostsOf(parts, installation.hosts);
  const facts = await parts.estate.installer.facts(hosts.map((host) => host.name));
  return {
    hosts: hosts.flatMap(({ name, pool }) => {
      const own = facts.get(name);
      if (!own) return [];
      const verdict = evaluateRemoval(installation, own, others);
      const by = verdict.state === 'needed' ? [...verdict.by] : [];
      return [{ host: name, pool, state: verdict.state, by }];
    }),
  };
}

/** Quiet hours that cannot be read are none, until they are mended. */
function quietOf(installation: Installation): Installation['quietHours'] {
  const faults = installationFaults(installation);
  return faults.some((fault) => fault.path.startsWith('quietHours')) ? null : installation.quietHours;
}

export interface GroupedHost {
  readonly name: string;
  readonly pool: string;
  /** At the hypervisor; null for a host that is no virtual machine. */
  readonly machineId: string | null;
}

/** Hosts of a rule group, by name. */
export async function hostsOf({ db }: Pick<Parts, 'db'>, group: string): Promise<GroupedHost[]> {
  const rows = await db
    .selectFrom('host')
    .innerJoin('pool', 'pool.id', 'host.pool_id')
    .select(['host.name', 'pool.name as pool', 'host.machine_id as machineId'])
    .orderBy('host.name')
    .execute();
  return rows.filter((row) => isInHosts(group, row.name));
}
