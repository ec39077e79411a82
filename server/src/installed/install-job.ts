/** Gives an installation, and what it needs before it, to the agents of its hosts, and keeps what they report. */
import { mayBegin } from '@vatline/core/installed/evaluate';
import type { Installation } from '@vatline/core/installed/installation';
import { must } from '@vatline/core/result';
import type { JobContext, JobKind } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { hostsOf, type GroupedHost } from './forecast.ts';
import { runOn, whatCame } from './host-run.ts';
import type { InstallationStore } from './store.ts';

export interface InstallInput {
  readonly installationId: string;
}

export function installJob(parts: Parts, store: InstallationStore): JobKind<InstallInput> {
  return {
    kind: 'install',
    paced: true,
    steps: async ({ installationId }) => {
      const wanted = await store.installation(installationId);
      const order = must(await store.order(installationId, wanted));
      const hosts = await hostsOf(parts, wanted.hosts);
      // What it needs is reported under its own name too.
      return order.map(({ id, installation }, i) => ({
        title: `${installation.name} ${installation.version} on ${hosts.length} hosts`,
        run: async (context) => {
          if (i === 0) await announce(parts, store, installationId, wanted, hosts);
          await installOnAll(parts, store, context, {
            id,
            installation,
            hosts,
            when: wanted,
            needed: order
              .slice(0, i)
              .filter((other) =>
                installation.dependencies.some((need) => need.name === other.installation.name),
              )
              .map((other) => ({ id: other.id, name: other.installation.name })),
          });
        },
      }));
    },
    // What it needs waited under its own name.
    ended: async ({ installationId }, state) => {
      if (state === 'done') return;
      const order = await store.order(installationId, await store.installation(installationId));
      for (const { id } of order.ok ? order.value : [{ id: installationId }]) await store.cancelWaiting(id);
    },
  };
}

interface OneInstallation {
  readonly id: string;
  readonly installation: Installation;
  readonly hosts: readonly GroupedHost[];
  /** Whose quiet hours and deadline count. */
  readonly when: Installation;
  /** What must be there before, which has reported already. */
  readonly needed: readonly { readonly id: string; readonly name: string }[];
}

/** Every host waits from the beginning, also while what it needs is being installed. */
async function announce(
  parts: Parts,
  store: InstallationStore,
  id: string,
  wanted: Installation,
  hosts: readonly GroupedHost[],
): Promise<void> {
  const { clock } = parts.estate;
  const at = mayBegin(clock.now(), wanted.quietHours, wanted.deadline, clock.zone);
  const known = new Set((await store.reports(id)).map((row) => row.host));
  const first = wanted.dependencies.map((need) => need.name).join(', ');
  await store.setReports(
    id,
    hosts
      .filter(({ name }) => !known.has(name))
      .map(({ name }) => ({ host: name, state: 'waiting', code: null, why: first && `after ${first}`, at })),
  );
  parts.journal.tell('package');
}

async function installOnAll(
  parts: Parts,
  store: InstallationStore,
  context: JobContext,
  one: OneInstallation,
): Promise<void> {
  const lacking = await hostsLacking(store, one);
  const ended = new Map((await store.reports(one.id)).map((row) => [row.host, row.state]));
  // Taken up after a restart, hosts that have reported are not asked again.
  const left = one.hosts.filter((host) => (ended.get(host.name) ?? 'waiting') === 'waiting');
  let done = one.hosts.length - left.length;
  await context.together(
    left.map((host) => async () => {
      const lacks = lacking.get(host.name);
      if (lacks === undefined) await runOn(parts, store, context, { ...one, verb: 'install' }, host);
      else
        await store.setReports(one.id, [
          {
            host: host.name,
            state: 'failed',
            code: null,
            why: `it needs ${lacks}, which is not there`,
            at: parts.estate.clock.now(),
          },
        ]);
      context.progress(++done / Math.max(1, one.hosts.length));
      parts.journal.tell('package');
    }),
  );
  await context.log(await whatCame(store, one.id));
}

/** What each host lacks of what must be there before. */
async function hostsLacking(
  store: InstallationStore,
  { needed }: OneInstallation,
): Promise<ReadonlyMap<string, string>> {
  const lacking = new Map<string, string>();
  for (const { id, name } of needed)
    for (const { host, state } of await store.reports(id))
      if (state !== 'installed' && state !== 'detected already') lacking.set(host, name);
  return lacking;
}
