import { jobEndpoints } from '@vatline/contract/job';
import { DONE } from '../change.ts';
import type { Door } from '../door.ts';
import type { JobRunner } from './runner.ts';

export function jobRoutes(door: Door, runner: JobRunner): void {
  door.serve(jobEndpoints.list, ({ query }) => runner.newest(query.subject, query.limit));
  door.serve(jobEndpoints.get, ({ params }) => runner.detail(params.id));
  door.serve(jobEndpoints.ledger, async ({ params, query }) => {
    const { id } = await runner.need(params.id);
    return runner.store.ledgerPage(id, query);
  });
  door.serve(jobEndpoints.cancel, async ({ params }) => {
    await runner.cancel(params.id);
    return DONE;
  });
  door.serve(jobEndpoints.pause, async ({ params }) => {
    await runner.pause(params.id);
    return DONE;
  });
  door.serve(jobEndpoints.goOn, async ({ params }) => {
    await runner.goOn(params.id);
    return DONE;
  });
  door.serve(jobEndpoints.undo, async ({ params }) => ({ jobId: await runner.undo(params.id) }));
}
