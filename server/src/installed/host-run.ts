/** One installation on one host, put there or taken away by its agent, and what it reports. */
import { endOf, mayBegin } from '@vatline/core/installed/evaluate';
import type { Installation } from '@vatline/core/installed/installation';
import type { InstallReport } from '@vatline/contract/installation';
import { EstateError, type Operation } from '../estate/driver/operations.ts';
import type { AgentInstallReport } from '../estate/driver/hosts.ts';
import { fromJson } from '../platform/database.ts';
import type { JobContext } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import type { GroupedHost } from './forecast.ts';
import type { InstallationStore } from './store.ts';

export type HostWork = {
  readonly id: string;
  readonly installation: Installation;
  /** Whose quiet hours and deadline count. */
  readonly when: Installation;
} & (
  { readonly verb: 'install' } | { readonly verb: 'uninstall'; readonly dependants: readonly Installation[] }
);

/** An installer that is busy elsewhere is tried so often. */
const TRIES = 3;

export async function runOn(
  parts: Parts,
  store: InstallationStore,
  context: JobContext,
  work: HostWork,
  host: GroupedHost,
): Promise<void> {
  const { id, installation, when, verb } = work;
  const { clock } = parts.estate;
  const report = (part: Omit<InstallReport, 'pool' | 'host' | 'at'>, at = clock.now()) =>
    store.setReports(id, [{ host: host.name, at, ...part }]);
  for (let attempt = 1; attempt <= TRIES; attempt++) {
    const notBefore = mayBegin(clock.now(), when.quietHours, when.deadline, clock.zone);
    await report({ state: 'waiting', code: null, why: '' }, notBefore);
    const answer = await answerOf(context, (again) =>
      begin(parts, `${context.jobId}/${id}/${host.name}/${attempt}/${again}`, work, host, notBefore),
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
      state: verb === 'install' ? 'installed' : 'removed',
      code: answer.code,
      why: [...afterwards, `ran ${answer.command}`].join('; '),
    });
  }
}

/** How many hosts reported what, for the log of a job. */
export async function whatCame(store: InstallationStore, id: string): Promise<string> {
  const counts = new Map<string, number>();
  for (const { state } of await store.reports(id)) counts.set(state, (counts.get(state) ?? 0) + 1);
  return (
    [...counts].map(([state, hosts]) => `${hosts} ${state}`).join(', ') || 'there is no host in the group'
  );
}

function begin(
  { estate: { installer } }: Parts,
  key: string,
  work: HostWork,
  { name }: GroupedHost,
  notBefore: number,
): Promise<Operation> {
  const order = { installation: work.installation, notBefore };
  return work.verb === 'install'
    ? installer.install(key, name, order)
    : installer.uninstall(key, name, { ...order, dependants: work.dependants });
}

/** An agent that is silent, or broke, is a failed host and not a failed job. */
async function answerOf(
  context: JobContext,
  ask: (again: number) => Promise<Operation>,
): Promise<AgentInstallReport> {
  try {
    const { result } = await context.operation(ask);
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
  if (machineId === null) throw conflict(`${name} is no virtual machine; restart it at its switch`);
  await context.operation((again) =>
    activity.drain(`${context.jobId}/${key}/drain/${again}`, pool, name, 1, 60),
  );
  await context.operation((again) =>
    hypervisor.power(`${context.jobId}/${key}/restart/${again}`, machineId, 'restart'),
  );
}
