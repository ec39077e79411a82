/** Gives an installation, and what it needs before it, to the agents of its hosts, and keeps what they report. */
import { endOf, mayBegin } from '@vatline/core/installed/evaluate';
import type { Installation } from '@vatline/core/installed/installation';
import { must } from '@vatline/core/result';
import type { InstallReport } from '@vatline/contract/installation';
import { EstateError, type AgentInstallReport } from '../estate/driver.ts';
import { fromJson } from '../platform/database.ts';
import type { JobContext, JobKind } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { hostsOf, type GroupedHost } from './forecast.ts';
import type { InstallationStore } from './store.ts';

export interface InstallInput {
  readonly installationId: string;
}

/** An installer that is busy elsewhere is tried so often. */
const TRIES = 3;

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
    ended: async ({ installationId }, state) => {
      if (state === 'done') return;
      for (const report of await store.reports(installationId))
        if (report.state === 'waiting')
          await store.setReport(installationId, {
            ...report,
            state: 'cancelled',
            why: 'the job ended before its agent began',
          });
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
  for (const { name } of hosts)
    if (!known.has(name))
      await store.setReport(id, {
        host: name,
        state: 'waiting',
        code: null,
        why: first && `after ${first}`,
        at,
      });
  parts.journal.tell('packages');
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
      if (lacks === undefined) await installOn(parts, store, context, one, host);
      else
        await store.setReport(one.id, {
          host: host.name,
          state: 'failed',
          code: null,
          why: `it needs ${lacks}, which is not there`,
          at: parts.estate.clock.now(),
        });
      context.progress(++done / Math.max(1, one.hosts.length));
      parts.journal.tell('packages');
    }),
  );
  const counts = new Map<string, number>();
  for (const { state } of await store.reports(one.id)) counts.set(state, (counts.get(state) ?? 0) + 1);
  await context.log(
    [...counts].map(([state, hosts]) => `${hosts} ${state}`).join(', ') || 'there is no host in the group',
  );
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

async function installOn(
  parts: Parts,
  store: InstallationStore,
  context: JobContext,
  { id, installation, when }: OneInstallation,
  host: GroupedHost,
): Promise<void> {
  const { clock, installer } = parts.estate;
  const report = (part: Omit<InstallReport, 'pool' | 'host' | 'at'>, at = clock.now()) =>
    store.setReport(id, { host: host.name, at, ...part });
  for (let attempt = 1; attempt <= TRIES; attempt++) {
    const notBefore = mayBegin(clock.now(), when.quietHours, when.deadline, clock.zone);
    await report({ state: 'waiting', code: null, why: '' }, notBefore);
    const answer = await ask(
      context,
      installer,
      `${id}/${host.name}/${attempt}`,
      host,
      installation,
      notBefore,
    );
    if (answer.state !== 'ran') return report({ state: answer.state, code: null, why: answer.why });
    const end = endOf(answer.code ?? -1, installation);
    if (end === 'try again' && attempt < TRIES) continue;
    if (end === 'failed' || end === 'try again')
      return report({ state: 'failed', code: answer.code, why: answer.why });
    const restarts =
      installation.restart === 'always' || (installation.restart === 'when asked' && end === 'restart');
    if (restarts) await restart(parts, context, `${id}/${host.name}`, host);
    const afterwards = restarts ? ['restarted'] : end === 'restart' ? ['a restart is pending'] : [];
    return report({
      state: 'installed',
      code: answer.code,
      why: [...afterwards, `ran ${answer.command}`].join('; '),
    });
  }
}

/** An agent that is silent, or broke, is a failed host and not a failed job. */
async function ask(
  context: JobContext,
  installer: Parts['estate']['installer'],
  key: string,
  host: GroupedHost,
  installation: Installation,
  notBefore: number,
): Promise<AgentInstallReport> {
  try {
    const { result } = await context.operation((again) =>
      installer.install(`${context.jobId}/${key}/${again}`, host.name, { installation, notBefore }),
    );
    return fromJson<AgentInstallReport>(result);
  } catch (error) {
    if (!(error instanceof EstateError)) throw error;
    return { state: 'failed', code: null, why: error.message, command: '' };
  }
}

/** When nobody is left on the host, at most an hour later. */
async function restart(
  { estate: { hypervisor, activity } }: Parts,
  context: JobContext,
  key: string,
  { name, pool, machineId }: GroupedHost,
): Promise<void> {
  await context.operation((again) =>
    activity.drain(`${context.jobId}/${key}/drain/${again}`, pool, name, 1, 60),
  );
  await context.operation((again) =>
    hypervisor.power(`${context.jobId}/${key}/restart/${again}`, machineId, 'restart'),
  );
}
