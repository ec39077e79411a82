/** Making a pool, host by host, with a ledger over hypervisor, directory and broker; and undoing it. */
import { usualPace } from '@vatline/core/pool/assumptions';
import type { NewPool } from '@vatline/contract/pool/kinds';
import { newId } from '../platform/ids.ts';
import type { LedgerEntry } from '../platform/jobs/ledger.ts';
import type { JobContext, JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict } from '../platform/problem.ts';
import { turnsForOthers } from '../platform/turns.ts';

export interface CreateInput {
  readonly poolId: string;
  readonly blendId: string;
  readonly imageId: string;
  readonly pool: NewPool;
  readonly memoryBytes: number;
  readonly names: readonly string[];
}

export interface UndoInput {
  readonly of: string;
}

const systems = ['hypervisor', 'directory', 'broker'] as const;

export function poolJobs(parts: Parts): void {
  parts.jobs.register(createJob(parts));
  parts.jobs.register(undoJob(parts));
}

function createJob(parts: Parts): JobKind<CreateInput> {
  return {
    kind: 'make pool',
    paced: true,
    undoKind: 'undo pool',
    steps: (input) => {
      const batches: JobStep[] = [];
      const { atOnce } = usualPace(input.pool.clone);
      for (let i = 0; i < input.names.length; i += atOnce) {
        const names = input.names.slice(i, i + atOnce);
        const title = names.length === 1 ? `Make ${names[0]}` : `Make ${names[0]} to ${names.at(-1)}`;
        batches.push({
          title,
          run: (context) =>
            context.together(names.map((name) => () => makeHost(parts, context, input, name))),
        });
      }
      const plan: JobStep = {
        title: 'Write the ledger',
        run: (context) =>
          context.ledger.plan(input.names.flatMap((object) => systems.map((system) => ({ object, system })))),
      };
      return Promise.resolve([plan, ...batches]);
    },
  };
}

async function makeHost(parts: Parts, context: JobContext, input: CreateInput, name: string): Promise<void> {
  const { hypervisor, directory, broker } = parts.estate;
  const { pool } = input;
  const spec = {
    name,
    site: pool.site,
    datastore: pool.datastore,
    processors: pool.processors,
    memoryBytes: input.memoryBytes,
    imageId: input.imageId,
    kind: pool.clone,
  };
  const machineId = await context.ledger.make(
    name,
    'hypervisor',
    async (key) => (await context.operation(() => hypervisor.clone(key, spec))).result,
  );
  await context.ledger.make(name, 'directory', async (key) => {
    await directory.createComputer(key, name, pool.ou);
    return `CN=${name},${pool.ou}`;
  });
  await context.ledger.make(
    name,
    'broker',
    async (key) => (await context.operation(() => broker.register(key, pool.name, name))).result,
  );
  await addHost(parts, input, name, machineId);
  await context.log(`${name} is in service`);
  parts.journal.tell('pool', 'estate');
}

/** The host is there and its reservation gone, at once. Again does nothing more. */
async function addHost(parts: Parts, input: CreateInput, name: string, machineId: string): Promise<void> {
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
          service: 'in service',
          work: 'none',
          blend_id: input.blendId,
          next_blend_id: null,
          note: '',
        })
        .execute();
    await parts.db.deleteFrom('host_reserved').where('name', '=', name).execute();
  });
}

/** Takes back everything that was made or may have been, last first. */
function undoJob(parts: Parts): JobKind<UndoInput> {
  return {
    kind: 'undo pool',
    paced: true,
    steps: (input) =>
      Promise.resolve<JobStep[]>([
        {
          title: 'Take back what was made',
          run: async (context) => {
            const rows = (await context.ledger.rows(input.of)).filter(mayBeThere).reverse();
            const others = turnsForOthers();
            for (const [i, row] of rows.entries()) {
              await others();
              await takeBack(parts, input.of, `${context.jobId}/${row.number}`, row);
              await context.ledger.undone(row.number, input.of);
              context.progress((i + 1) / rows.length);
            }
            await context.log(`${rows.length} objects taken back`);
          },
        },
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

/** What was not begun, and what an outside system refused, is not there. */
function mayBeThere({ state, key }: LedgerEntry): boolean {
  return state === 'made' || (state === 'planned' && key !== '') || state === 'failed';
}

async function takeBack(parts: Parts, jobId: string, key: string, row: LedgerEntry): Promise<void> {
  const { hypervisor, directory, broker } = parts.estate;
  if (row.system === 'hypervisor') {
    if (row.state === 'made') await hypervisor.deleteMachine(key, row.key);
    // A clone that was running when the job ended goes on by itself.
    for (let attempt = 0; attempt <= row.attempts; attempt++)
      await takeBackClone(parts, key, `${jobId}/hypervisor/${row.object}/${attempt}`);
  } else if (row.state === 'failed') return;
  else if (row.system === 'broker') {
    await parts.estate.operations.callOff(row.key);
    await broker.deregister(key, row.object);
  } else await directory.deleteComputer(key, row.object);
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
    await parts.db.deleteFrom('assignment').where('pool_id', '=', poolId).execute();
    await parts.db.deleteFrom('pool_pace').where('pool_id', '=', poolId).execute();
    // The packages of its blends and its placements go with them.
    await parts.db.deleteFrom('blend').where('pool_id', '=', poolId).execute();
    await parts.db.deleteFrom('pool').where('id', '=', poolId).execute();
    await parts.db.updateTable('job').set({ undone: 1 }).where('id', '=', madeBy).execute();
  });
}
