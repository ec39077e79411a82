import type { Router } from 'express';
import { jobEndpoints } from '@vatline/contract/job';
import { serve } from '../http.ts';
import { notFound } from '../problem.ts';
import type { JobRunner } from './runner.ts';

export function jobRoutes(router: Router, runner: JobRunner): void {
  const undoable = (kind: string) => runner.undoable(kind);
  serve(router, jobEndpoints.list, async ({ query }) =>
    runner.store.present(await runner.store.list(query.subject, query.limit), undoable),
  );
  serve(router, jobEndpoints.get, async ({ params }) => {
    const row = await runner.store.get(params.id);
    if (!row) throw notFound('such job');
    return runner.store.detail(row, undoable);
  });
  serve(router, jobEndpoints.cancel, async ({ params }) => {
    await runner.cancel(params.id);
    return { done: true as const };
  });
  serve(router, jobEndpoints.goOn, async ({ params }) => {
    await runner.goOn(params.id);
    return { done: true as const };
  });
  serve(router, jobEndpoints.undo, async ({ params }) => ({ jobId: await runner.undo(params.id) }));
}
