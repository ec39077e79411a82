/** Many things at once, over HTTP. */
import { bulkEndpoints } from '@vatline/contract/bulk';
import type { Door } from '../platform/door.ts';
import type { Parts } from '../platform/parts.ts';
import { bulkTitle } from './job.ts';

/** One at a time: the packaging machine is one. */
const SUBJECT = 'bulk:packages';

export function bulkRoutes(door: Door, parts: Parts): void {
  const { jobs, db } = parts;

  door.serve(bulkEndpoints.begin, async ({ body }) => {
    const jobId = await jobs.start({ kind: 'bulk', title: bulkTitle(body), subject: SUBJECT, input: body });
    return { jobId };
  });

  door.serve(bulkEndpoints.newest, async () => {
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
