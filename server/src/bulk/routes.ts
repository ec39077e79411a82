/** Many things at once, over HTTP. */
import type { Router } from 'express';
import { bulkEndpoints } from '@vatline/contract/bulk';
import { serve } from '../platform/http.ts';
import type { Parts } from '../platform/parts.ts';
import { bulkTitle } from './job.ts';

/** One at a time: the packaging machine is one. */
const SUBJECT = 'bulk:packages';

export function bulkRoutes(router: Router, parts: Parts): void {
  const { jobs, journal, db } = parts;

  serve(router, bulkEndpoints.begin, async ({ body }) => {
    const jobId = await jobs.start({ kind: 'bulk', title: bulkTitle(body), subject: SUBJECT, input: body });
    journal.tell('packages', 'jobs');
    return { jobId };
  });

  serve(router, bulkEndpoints.newest, async () => {
    const [job] = await jobs.newest(SUBJECT, 1);
    if (!job) return null;
    const rows = await db
      .selectFrom('bulk_row')
      .select(['number', 'what', 'state', 'result'])
      .where('job_id', '=', job.id)
      .orderBy('number')
      .execute();
    return { job, rows };
  });
}
