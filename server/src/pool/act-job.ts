/** The job that does something to hosts, some at a time; each step may run again after a kill. */
import { standingIn, stateAfterWork } from '@vatline/core/pool/service-state';
import type { HostAction } from '@vatline/core/pool/host-actions';
import type { JoinAccounts } from '../directory/join-accounts.ts';
import type { JobContext, JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { noteLeadTime } from './lead-times.ts';
import { settingsIn, type PoolStore } from './pools.ts';
import type { HostRow, PoolRow } from './tables.ts';

export interface ActInput {
  readonly poolId: string;
  readonly action: Exclude<HostAction, 'hold' | 'let in'>;
  readonly hosts: readonly string[];
  readonly text: string;
  readonly limitMinutes: number;
}

/** So many at a time: a datastore carries no more starts at once. */
const AT_ONCE = 10;

const doing: Record<ActInput['action'], string> = {
  drain: 'Drain',
  restart: 'Restart',
  'power off': 'Power off',
  'power on': 'Power on',
  message: 'Tell those on',
  'keep a copy': 'Keep a copy of',
  remove: 'Remove',
};

interface Acting {
  readonly parts: Parts;
  readonly pools: PoolStore;
  readonly accounts: JoinAccounts;
}

export function actJob(parts: Parts, pools: PoolStore, accounts: JoinAccounts): JobKind<ActInput> {
  const acting = { parts, pools, accounts };
  return {
    kind: 'act on hosts',
    paced: true,
    steps: (input) => {
      const steps: JobStep[] = [];
      for (let i = 0; i < input.hosts.length; i += AT_ONCE)
        steps.push(stepFor(acting, input, input.hosts.slice(i, i + AT_ONCE)));
      return Promise.resolve(steps);
    },
  };
}

function stepFor(acting: Acting, input: ActInput, names: readonly string[]): JobStep {
  const { parts, pools } = acting;
  const to = names.length === 1 ? '' : ` to ${names.at(-1) ?? ''}`;
  return {
    title: `${doing[input.action]} ${names[0] ?? ''}${to}`,
    run: async (context) => {
      const pool = await pools.pool(input.poolId);
      await context.together(
        names.map((name) => async () => {
          const host = await parts.db
            .selectFrom('host')
            .selectAll()
            .where('name', '=', name)
            .where('pool_id', '=', input.poolId)
            .executeTakeFirst();
          // Gone is gone, whoever removed it.
          if (host) await act(acting, context, input, pool, host);
        }),
      );
      parts.journal.tell(`pool:${input.poolId}`, 'estate');
    },
  };
}

async function act(
  acting: Acting,
  context: JobContext,
  input: ActInput,
  pool: PoolRow,
  host: HostRow,
): Promise<void> {
  const { parts, pools } = acting;
  const { hypervisor, activity, broker } = parts.estate;
  const key = (attempt: number) => `${context.jobId}/${host.name}/${attempt}`;
  const power = (to: 'on' | 'off' | 'restart') =>
    context.operation((attempt) => hypervisor.power(key(attempt), host.machine_id ?? '', to));
  const stand = (state: 'held' | 'off' | 'in service' | 'draining') =>
    pools.hosts.set(host.id, standingIn(state));
  const back = () => stand(stateAfterWork({ isHeld: host.is_held === 1 }));
  switch (input.action) {
    case 'message':
      await broker.message(`${context.jobId}/${host.name}`, host.name, input.text);
      return context.log(`those on ${host.name} were told`);
    case 'restart':
      await stand('held');
      await power('restart');
      await back();
      return context.log(`${host.name} was restarted`);
    case 'power off':
      await stand('held');
      await power('off');
      await stand('off');
      return context.log(`${host.name} is off`);
    case 'power on': {
      const { startedAt } = await power('on');
      if (host.power === 'off') await noteLeadTime(parts, pool.id, 'start', startedAt);
      await back();
      return context.log(`${host.name} is on`);
    }
    case 'drain': {
      const sessions = await sessionsOn(pools, pool, host);
      // Before anybody is waited for, they know what they are waited for.
      if (sessions > 0 && input.text.trim() !== '')
        await broker.message(`${context.jobId}/${host.name}/told`, host.name, input.text);
      await pools.hosts.set(host.id, { ...standingIn('draining'), is_held: 1 });
      await context.operation((attempt) =>
        activity.drain(key(attempt), pool.name, host.name, sessions, input.limitMinutes),
      );
      await stand('held');
      return context.log(`nobody is on ${host.name} any more; it is held back`);
    }
    case 'keep a copy': {
      const name = await keepCopy(acting, context, pool, host);
      return context.log(`${name} is kept as ${host.name} is now`);
    }
    case 'remove':
      await stand('held');
      await remove(acting, context.jobId, pool, host);
      return context.log(`${host.name} was removed from every system`);
  }
}

/** The disks as they are, on a machine that is off and that nobody gets a session on; people go on meanwhile. */
async function keepCopy(
  { parts }: Acting,
  context: JobContext,
  pool: PoolRow,
  host: HostRow,
): Promise<string> {
  const { db, estate } = parts;
  const { n } = await db
    .selectFrom('kept_copy')
    .select(({ fn }) => fn.countAll<number>().as('n'))
    .where('host', '=', host.name)
    .executeTakeFirstOrThrow();
  const name = `STUDY-${host.name}${n === 0 ? '' : `-${n + 1}`}`;
  const { result } = await context.operation((attempt) =>
    estate.hypervisor.copy(`${context.jobId}/${host.name}/copy/${attempt}`, host.machine_id ?? '', name),
  );
  await db
    .insertInto('kept_copy')
    .values({ machine_id: result, pool_id: pool.id, host: host.name, name, kept_ms: estate.clock.now() })
    .onConflict((c) => c.doNothing())
    .execute();
  return name;
}

async function sessionsOn(pools: PoolStore, pool: PoolRow, host: HostRow): Promise<number> {
  if (host.service !== 'in service') return 0;
  const counts = await pools.hosts.counts(pool.id);
  return (await pools.hosts.sessionsOn(pool, counts, [host.name])).get(host.name) ?? 0;
}

/** Out of every system, last from our own books, in which the records of rollouts still find it. */
async function remove(
  { parts, accounts }: Acting,
  jobId: string,
  pool: PoolRow,
  host: HostRow,
): Promise<void> {
  const { broker, directory, licences, hypervisor } = parts.estate;
  const key = `${jobId}/${host.name}`;
  await broker.deregister(key, host.name);
  await directory.deleteComputer(key, host.name, await accounts.credentials(settingsIn(pool).joinAccount));
  await licences.release(key, host.name);
  if (host.machine_id !== null) await hypervisor.deleteMachine(key, host.machine_id);
  const { db } = parts;
  await db.transact(async () => {
    await db
      .insertInto('removed_host')
      .values({ ...host, removed_ms: parts.estate.clock.now() })
      .execute();
    await db.deleteFrom('host').where('id', '=', host.id).execute();
  });
}
