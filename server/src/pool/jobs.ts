/** Making a pool, host by host, with a ledger over hypervisor, directory and broker; and undoing it. */
import type { NewPool } from '@vatline/contract/pool';
import { newId } from '../platform/ids.ts';
import type { JobContext, JobKind, JobStep } from '../platform/jobs/runner.ts';
import type { Parts } from '../platform/parts.ts';
import { CLONES_AT_ONCE } from './preview.ts';

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
      for (let i = 0; i < input.names.length; i += CLONES_AT_ONCE) {
        const names = input.names.slice(i, i + CLONES_AT_ONCE);
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
  await parts.db
    .insertInto('host')
    .values({
      id: newId('host'),
      pool_id: input.poolId,
      name,
      machine_id: machineId,
      state: 'in service',
      blend_id: input.blendId,
      next_blend_id: null,
      note: '',
    })
    .onConflict((c) => c.column('name').doNothing())
    .execute();
  await context.log(`${name} is in service`);
  parts.journal.tell('pools', 'estate');
}

/** Takes back everything the ledger says was made, last first. */
function undoJob(parts: Parts): JobKind<UndoInput> {
  return {
    kind: 'undo pool',
    paced: true,
    steps: (input) =>
      Promise.resolve<JobStep[]>([
        {
          title: 'Take back what was made',
          run: async (context) => {
            const rows = (await context.ledger.rows(input.of))
              .filter((row) => row.state === 'made')
              .reverse();
            for (const [i, row] of rows.entries()) {
              await takeBack(parts, `${context.jobId}/${row.number}`, row);
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
            await removePool(parts, poolId);
            await context.log('the pool is gone');
            parts.journal.tell('pools', 'access', 'estate');
          },
        },
      ]),
  };
}

async function takeBack(
  parts: Parts,
  key: string,
  row: { object: string; system: string; key: string },
): Promise<void> {
  const { hypervisor, directory, broker } = parts.estate;
  await parts.db.deleteFrom('host').where('name', '=', row.object).execute();
  if (row.system === 'broker') await broker.deregister(key, row.object);
  else if (row.system === 'directory') await directory.deleteComputer(key, row.object);
  else await hypervisor.deleteMachine(key, row.key);
}

async function removePool(parts: Parts, poolId: string): Promise<void> {
  await parts.db.transaction().execute(async (tx) => {
    await tx.deleteFrom('host').where('pool_id', '=', poolId).execute();
    await tx.deleteFrom('assignment').where('pool_id', '=', poolId).execute();
    await tx.deleteFrom('blend').where('pool_id', '=', poolId).execute();
    await tx.deleteFrom('pool').where('id', '=', poolId).execute();
  });
}
