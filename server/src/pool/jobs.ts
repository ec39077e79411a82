/** Making a pool, host by host, with a ledger over all outside systems; and undoing it. */
import { sql } from 'kysely';
import type { Instant } from '@vatline/core/time/instant';
import type { HostSize } from '@vatline/core/pool/fit';
import type { NewPool } from '@vatline/contract/pool/kinds';
import type { Credentials } from '../estate/driver/directory.ts';
import type { CloneDisks, CloneSpec } from '../estate/driver/hypervisor.ts';
import { EstateError, type Operation } from '../estate/driver/operations.ts';
import { fromJson } from '../platform/database.ts';
import { newId } from '../platform/ids.ts';
import type { LedgerEntry } from '../platform/jobs/ledger.ts';
import type { JobContext, JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import { turnsForOthers } from '../platform/turns.ts';
import type { JoinAccounts } from '../directory/join-accounts.ts';
import { brokerPoolOf } from './broker-pool.ts';
import { noteLeadTime } from './lead-times.ts';
import { mountsFor } from './mounts.ts';

export interface CreateInput {
  readonly poolId: string;
  readonly blendId: string;
  readonly imageId: string;
  readonly pool: NewPool;
  readonly hosts: readonly HostToMake[];
}

export interface HostToMake {
  readonly name: string;
  /** Which of the pool's places it stands on. */
  readonly place: number;
  readonly size: HostSize;
  /** Of the pool's chassis; null for a virtual machine. */
  readonly slot: number | null;
}

/** Hosts that are made for a pool that is there. */
export interface AddInput extends CreateInput {
  /** Package versions of the pool's blend, which its new hosts are to have as well. */
  readonly packageVersionIds: readonly string[];
}

export interface UndoInput {
  readonly of: string;
}

/** Before the key of what was there already. */
const ADOPTED = 'adopted: ';

/** What a job makes hosts from, for a new pool or for one that is there. */
type MakeInput = CreateInput & Partial<Pick<AddInput, 'packageVersionIds'>>;

/** What each host is made in, in this order; a key is used up, a script run, and packages attached only where there are some. */
function systemsOf({ pool, packageVersionIds = [] }: MakeInput): string[] {
  const { licence, afterMaking } = pool;
  const licences = licence === null ? [] : ['licences'];
  const script = afterMaking.trim() === '' ? [] : ['script'];
  const packages = packageVersionIds.length === 0 ? [] : ['packages'];
  return [machineSystem(pool), 'directory', ...licences, 'broker', 'agent', ...packages, ...script];
}

/** Which outside system gives its machines. */
function machineSystem({ chassis }: NewPool): 'chassis' | 'hypervisor' {
  return chassis === null ? 'hypervisor' : 'chassis';
}

export function poolJobs(parts: Parts, accounts: JoinAccounts): void {
  parts.jobs.register(createJob(parts, accounts));
  parts.jobs.register(undoJob(parts, accounts));
  parts.jobs.register(addJob(parts, accounts));
  parts.jobs.register(undoHostsJob(parts, accounts));
}

function createJob(parts: Parts, accounts: JoinAccounts): JobKind<CreateInput> {
  return {
    kind: 'make pool',
    paced: true,
    undoKind: 'undo pool',
    steps: (input) => {
      const plan: JobStep = {
        title: 'Write the ledger',
        run: async (context) => {
          const { pool } = input;
          await context.ledger.plan([{ object: pool.name, system: 'broker' }, ...ledgerOf(input)]);
          await makeBrokerPool(parts, context, pool);
        },
      };
      return Promise.resolve([plan, ...makingSteps(parts, accounts, input)]);
    },
  };
}

/** Makes hosts for a pool that is there. */
function addJob(parts: Parts, accounts: JoinAccounts): JobKind<AddInput> {
  return {
    kind: 'add hosts',
    paced: true,
    undoKind: 'undo hosts',
    steps: (input) => {
      const plan: JobStep = {
        title: 'Write the ledger',
        run: (context) => context.ledger.plan(ledgerOf(input)),
      };
      return Promise.resolve([plan, ...makingSteps(parts, accounts, input)]);
    },
  };
}

function ledgerOf(input: MakeInput): { object: string; system: string }[] {
  const systems = systemsOf(input);
  return input.hosts.flatMap(({ name: object }) => systems.map((system) => ({ object, system })));
}

function makingSteps(parts: Parts, accounts: JoinAccounts, input: MakeInput): JobStep[] {
  const { hosts, pool } = input;
  const batches: JobStep[] = [];
  for (let i = 0; i < hosts.length; i += pool.atOnce)
    batches.push(batchStep(parts, accounts, input, hosts.slice(i, i + pool.atOnce)));
  return [...batches, ...(pool.onFault === 'go on' ? [countStep()] : [])];
}

function batchStep(
  parts: Parts,
  accounts: JoinAccounts,
  input: MakeInput,
  hosts: readonly HostToMake[],
): JobStep {
  const [first, last] = [hosts[0]?.name, hosts.at(-1)?.name];
  return {
    title: hosts.length === 1 ? `Make ${first}` : `Make ${first} to ${last}`,
    run: async (context) => {
      const by = await accounts.credentials(input.pool.joinAccount);
      await context.together(
        hosts.map((host) => async () => {
          try {
            await makeHost(parts, context, input, host, by);
          } catch (error) {
            // Its row says why, and the others are made all the same.
            if (input.pool.onFault === 'stop' || !(error instanceof EstateError)) throw error;
            await context.log(`${host.name} was not made: ${error.message}`);
          }
        }),
      );
    },
  };
}

/** Where failed hosts do not stop the others, they are counted at the end. */
function countStep(): JobStep {
  return {
    title: 'See that all are there',
    run: async ({ ledger }) => {
      const failed = (await ledger.rows()).filter((row) => row.state === 'failed');
      if (failed.length > 0)
        throw new EstateError(
          'failed',
          `${failed.length === 1 ? 'one host was' : `${failed.length} hosts were`} not made; the first is ${failed[0]?.object}: ${failed[0]?.detail}`,
        );
    },
  };
}

/** What the broker holds people to stands before the first host takes any. */
async function makeBrokerPool({ estate }: Parts, context: JobContext, pool: NewPool): Promise<void> {
  const { name } = pool;
  const sessionLimit = pool.kind === 'pooled' ? pool.sessionLimit : 1;
  await context.ledger.make(name, 'broker', async (key) => {
    await estate.broker.setPool(key, name, brokerPoolOf({ name, sessionLimit }, pool, estate.clock.zone));
    return name;
  });
}

async function makeHost(
  parts: Parts,
  context: JobContext,
  input: MakeInput,
  host: HostToMake,
  by: Credentials | null,
): Promise<void> {
  const { directory, broker, licences } = parts.estate;
  const { pool } = input;
  const { name } = host;
  const { ledger } = context;
  let begun: Instant | undefined;
  const machineId = await ledger.make(name, machineSystem(pool), async (key) => {
    const made = await context.operation(() => beginMachine(parts, key, input, host));
    begun = made.startedAt;
    return made.result;
  });
  await ledger.make(name, 'directory', async (key) => {
    // An account that somebody made beforehand stays when the pool is undone.
    const isThere = pool.isAdopting && (await directory.computersIn(pool.ou)).includes(name);
    await directory.createComputer(key, name, pool.ou, by);
    return `${isThere ? ADOPTED : ''}CN=${name},${pool.ou}`;
  });
  const { licence } = pool;
  if (licence !== null)
    await ledger.make(name, 'licences', async (key) => {
      await licences.activate(key, licence, name);
      return licence;
    });
  await ledger.make(
    name,
    'broker',
    async (key) => (await context.operation(() => broker.register(key, pool.name, name))).result,
  );
  const { agents, clock } = parts.estate;
  const since = clock.now();
  await ledger.make(
    name,
    'agent',
    async (key) => {
      await context.operation(() => agents.verify(key, name));
      return 'reported';
    },
    { since, until: since + agents.patienceMs },
  );
  const { packageVersionIds = [] } = input;
  if (packageVersionIds.length > 0)
    await ledger.make(name, 'packages', async (key) => {
      const mounts = await mountsFor(parts, packageVersionIds, pool.name);
      await context.operation(() => agents.attach(key, name, mounts));
      return `${mounts.length} attached`;
    });
  if (pool.afterMaking.trim() !== '')
    await ledger.make(
      name,
      'script',
      async (key) =>
        `exit ${(await context.operation(() => agents.runScript(key, name, pool.afterMaking))).result}`,
    );
  await addHost(parts, input, host, machineId);
  await parts.estate.broker.setTaking(name, [name], !pool.isHeld);
  if (begun !== undefined) await noteLeadTime(parts, input.poolId, 'make', begun);
  await context.log(`${name} is ${pool.isHeld ? 'there and held back' : 'in service'}`);
  parts.journal.tell('pool', 'estate');
}

/** A clone, or a machine of a chassis that becomes the host. */
function beginMachine(
  { estate }: Parts,
  key: string,
  input: CreateInput,
  host: HostToMake,
): Promise<Operation> {
  const { pool, imageId } = input;
  const { name, slot } = host;
  if (pool.chassis === null || slot === null) return estate.hypervisor.clone(key, cloneSpecOf(input, host));
  return estate.chassis.associate(key, {
    chassis: pool.chassis,
    slot,
    name,
    network: pool.places[host.place]?.network ?? '',
    imageId,
    store: pool.store ?? '',
    scratchBytes: pool.scratchGigabytes * 1e9,
  });
}

function cloneSpecOf({ pool, imageId }: CreateInput, { name, place, size }: HostToMake): CloneSpec {
  const at = pool.places[place];
  if (!at) throw new Error(`${name} has no place`);
  const { datastore } = at;
  const common = {
    data:
      pool.dataGigabytes > 0
        ? { datastore: at.dataDatastore ?? datastore, bytes: pool.dataGigabytes * 1e9 }
        : null,
    returnsToClean: pool.signOut === 'return to clean',
  };
  if (pool.clone === 'network') {
    const streamed = {
      kind: pool.clone,
      datastore,
      store: pool.store ?? '',
      scratchBytes: pool.scratchGigabytes * 1e9,
    };
    return { name, site: at.site, network: at.network, imageId, ...size, disks: { ...streamed, ...common } };
  }
  const disks: CloneDisks =
    pool.clone === 'full'
      ? { kind: 'full', datastore, ...common }
      : { kind: 'linked', datastore, parentDatastore: at.parentDatastore ?? datastore, ...common };
  return { name, site: at.site, network: at.network, imageId, ...size, disks };
}

/** The host is there and its reservation gone, at once. Again does nothing more. */
async function addHost(
  parts: Parts,
  input: CreateInput,
  { name, place }: HostToMake,
  machineId: string,
): Promise<void> {
  await parts.db.transact(async () => {
    const known = await parts.db
      .selectFrom('host')
      .select('pool_id')
      .where('name', '=', name)
      .executeTakeFirst();
    if (known && known.pool_id !== input.poolId)
      throw conflict(`there is a host named ${name} in another pool`);
    if (!known)
      await parts.db
        .insertInto('host')
        .values({
          id: newId('host'),
          pool_id: input.poolId,
          name,
          machine_id: machineId,
          service: input.pool.isHeld ? 'out of service' : 'in service',
          work: 'none',
          is_held: input.pool.isHeld ? 1 : 0,
          place,
          blend_id: input.blendId,
          next_blend_id: null,
          note: '',
        })
        .execute();
    await parts.db.deleteFrom('host_reserved').where('name', '=', name).execute();
  });
}

/** Takes back everything that was made or may have been, last first. */
function undoJob(parts: Parts, accounts: JoinAccounts): JobKind<UndoInput> {
  return {
    kind: 'undo pool',
    paced: true,
    steps: (input) =>
      Promise.resolve<JobStep[]>([
        takeBackStep(parts, accounts, input),
        {
          title: 'Remove the pool',
          run: async (context) => {
            const job = await parts.jobs.store.get(input.of);
            const poolId = job?.subject.split(':')[1] ?? '';
            await removePool(parts, poolId, input.of);
            await context.log('the pool is gone');
            parts.journal.tell('pool', 'access', 'estate');
          },
        },
      ]),
  };
}

/** Takes back the hosts that were made for a pool, which stays. */
function undoHostsJob(parts: Parts, accounts: JoinAccounts): JobKind<UndoInput> {
  return {
    kind: 'undo hosts',
    paced: true,
    steps: (input) =>
      Promise.resolve<JobStep[]>([
        takeBackStep(parts, accounts, input),
        {
          title: 'Give back the names',
          run: async () => {
            const job = await parts.jobs.store.get(input.of);
            const names = job ? fromJson<AddInput>(job.input_json).hosts.map((host) => host.name) : [];
            await parts.db.transact(async () => {
              await parts.db
                .deleteFrom('host_reserved')
                .where('name', 'in', sql<string>`(select value from json_each(${JSON.stringify(names)}))`)
                .execute();
              await parts.db.updateTable('job').set({ undone: 1 }).where('id', '=', input.of).execute();
            });
            parts.journal.tell('pool', 'estate');
          },
        },
      ]),
  };
}

function takeBackStep(parts: Parts, accounts: JoinAccounts, input: UndoInput): JobStep {
  return {
    title: 'Take back what was made',
    run: async (context) => {
      const rows = (await context.ledger.rows(input.of)).filter(mayBeThere).reverse();
      const by = await accounts.credentials(await accountOf(parts, input.of));
      const others = turnsForOthers();
      for (const [i, row] of rows.entries()) {
        await others();
        await takeBack(parts, input.of, `${context.jobId}/${row.number}`, row, by);
        await context.ledger.undone(row.number, input.of);
        context.progress((i + 1) / rows.length);
      }
      await context.log(`${rows.length} objects taken back`);
    },
  };
}

/** What was not begun, and what an outside system refused, is not there. */
function mayBeThere({ state, key }: LedgerEntry): boolean {
  return state === 'made' || (state === 'planned' && key !== '') || state === 'failed';
}

/** The account that the hosts of a job were joined with, which takes their accounts away again. */
async function accountOf({ jobs }: Parts, jobId: string): Promise<string | null> {
  const job = await jobs.store.get(jobId);
  return job ? fromJson<CreateInput>(job.input_json).pool.joinAccount : null;
}

async function takeBack(
  parts: Parts,
  jobId: string,
  key: string,
  row: LedgerEntry,
  by: Credentials | null,
): Promise<void> {
  const { hypervisor, directory, broker, licences } = parts.estate;
  if (row.system === 'script' || row.system === 'agent' || row.system === 'packages') {
    await parts.estate.operations.callOff(row.key);
    return;
  }
  if (row.system === 'hypervisor' || row.system === 'chassis') {
    if (row.state === 'made') await hypervisor.deleteMachine(key, row.key);
    // A clone that was running when the job ended goes on by itself.
    for (let attempt = 0; attempt <= row.attempts; attempt++)
      await takeBackClone(parts, key, `${jobId}/${row.system}/${row.object}/${attempt}`);
  } else if (row.state === 'failed') return;
  else if (row.system === 'broker') {
    await parts.estate.operations.callOff(row.key);
    await broker.deregister(key, row.object);
    // The row of the pool itself bears its name; hosts are no pools.
    await broker.removePool(key, row.object);
  } else if (row.system === 'licences') await licences.release(key, row.object);
  else if (!row.key.startsWith(ADOPTED)) await directory.deleteComputer(key, row.object, by);
  await parts.db.deleteFrom('host').where('name', '=', row.object).execute();
}

async function takeBackClone({ estate }: Parts, key: string, cloneKey: string): Promise<void> {
  await estate.operations.callOff(cloneKey);
  const clone = await estate.operations.get(cloneKey);
  if (clone?.result) await estate.hypervisor.deleteMachine(key, clone.result);
}

/** The pool with all that stands on it, and that its making was undone. */
async function removePool(parts: Parts, poolId: string, madeBy: string): Promise<void> {
  await parts.db.transact(async () => {
    await parts.db.deleteFrom('host_reserved').where('pool_id', '=', poolId).execute();
    await parts.db.deleteFrom('host').where('pool_id', '=', poolId).execute();
    await parts.db.deleteFrom('removed_host').where('pool_id', '=', poolId).execute();
    await parts.db.deleteFrom('assignment').where('pool_id', '=', poolId).execute();
    await parts.db.deleteFrom('pool_pace').where('pool_id', '=', poolId).execute();
    // The packages of its blends and its placements go with them.
    await parts.db.deleteFrom('blend').where('pool_id', '=', poolId).execute();
    await parts.db.deleteFrom('pool').where('id', '=', poolId).execute();
    await parts.db.updateTable('job').set({ undone: 1 }).where('id', '=', madeBy).execute();
  });
}
