/** Calls about jobs, whoever began them. */
import { jobEndpoints } from '@vatline/contract/job';
import { api, does, reads, readsPages } from './base.ts';

export const jobsApi = api.injectEndpoints({
  endpoints: (build) => ({
    jobs: reads(build, jobEndpoints.list),
    job: reads(build, jobEndpoints.get),
    ledger: readsPages(build, jobEndpoints.ledger),
    cancelJob: does(build, jobEndpoints.cancel),
    pauseJob: does(build, jobEndpoints.pause),
    goOnJob: does(build, jobEndpoints.goOn),
    undoJob: does(build, jobEndpoints.undo),
  }),
});
