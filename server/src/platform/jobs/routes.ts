import type { Router } from 'express';
import { jobEndpoints } from '@vatline/contract/job';
import { serve } from '../http.ts';
import type { JobRunner } from './runner.ts';

export function jobRoutes(router: Router, runner: JobRunner): void {
  serve(router, jobEndpoints.list, ({ query }) => runner.newest(query.subject, query.limit));
  serve(router, jobEndpoints.get, ({ params }) => runner.detail(params.id));
  serve(router, jobEndpoints.cancel, async ({ params }) => {
    await runner.cancel(params.id);
    return { done: true as const };
  });
  serve(router, jobEndpoints.pause, async ({ params }) => {
    await runner.pause(params.id);
    return { done: true as const };
  });
  serve(router, jobEndpoints.goOn, async ({ params }) => {
    await runner.goOn(params.id);
    return { done: true as const };
  });
  serve(router, jobEndpoints.undo, async ({ params }) => ({ jobId: await runner.undo(params.id) }));
}
