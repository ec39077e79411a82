/** Does the rows of a bulk request one after the other; each has its own result. */
import type { BulkRequest, BulkRowState } from '@vatline/contract/bulk';
import { EstateError } from '../estate/driver/operations.ts';
import type { JobContext, JobKind } from '../platform/jobs/runner.ts';
import { problemOf } from '../platform/problem.ts';
import { turnsForOthers } from '../platform/turns.ts';
import { rowsOf, type BulkParts } from './actions.ts';
import type {} from './tables.ts';
import { Cancelled } from '../platform/jobs/cancelled.ts';

const titles: Record<BulkRequest['action'], string> = {
  draft: 'Make drafts',
  sign: 'Sign',
  convert: 'Convert',
  assign: 'Assign',
};

export function bulkTitle(request: BulkRequest): string {
  const rows = 'rows' in request ? request.rows.length : request.versionIds.length;
  return `${titles[request.action]}: ${rows} ${rows === 1 ? 'row' : 'rows'}`;
}

export function bulkJob(bulk: BulkParts): JobKind<BulkRequest> {
  return {
    kind: 'bulk',
    paced: true,
    steps: (request) =>
      Promise.resolve([{ title: bulkTitle(request), run: (context) => runRows(bulk, context, request) }]),
  };
}

async function runRows(bulk: BulkParts, context: JobContext, request: BulkRequest): Promise<void> {
  const { db, journal } = bulk.parts;
  const rows = await rowsOf(bulk, request);
  await db
    .insertInto('bulk_row')
    .values(
      rows.map(({ what }, number) => ({ job_id: context.jobId, number, what, state: 'waiting', result: '' })),
    )
    .onConflict((c) => c.columns(['job_id', 'number']).doNothing())
    .execute();
  const others = turnsForOthers();
  for (const [number, row] of rows.entries()) {
    await others();
    if (context.cancelled()) throw new Cancelled();
    const known = await db
      .selectFrom('bulk_row')
      .select('state')
      .where('job_id', '=', context.jobId)
      .where('number', '=', number)
      .executeTakeFirstOrThrow();
    // Taken up after a restart, what has a result is not done again.
    if (known.state === 'waiting')
      await db
        .updateTable('bulk_row')
        .set(await outcomeOf(() => row.run(context)))
        .where('job_id', '=', context.jobId)
        .where('number', '=', number)
        .execute();
    context.progress((number + 1) / rows.length);
    journal.tell('package', 'access');
  }
}

async function outcomeOf(run: () => Promise<string>): Promise<{ state: BulkRowState; result: string }> {
  try {
    return { state: 'done', result: await run() };
  } catch (error) {
    if (error instanceof EstateError) return { state: 'refused', result: error.message };
    const problem = problemOf(error);
    if (!problem) throw error;
    return { state: 'refused', result: problem.detail };
  }
}
