/** Calls of the rollouts station. */
import { rolloutEndpoints } from '@vatline/contract/rollout';
import { promiseEndpoints } from '@vatline/contract/promises';
import { progressEndpoints } from '@vatline/contract/rollout-progress';
import { recurringEndpoints } from '@vatline/contract/recurring';
import { recordEndpoints } from '@vatline/contract/rollout-record';
import { api, does, reads, readsPages } from './base.ts';

export const rolloutsApi = api.injectEndpoints({
  endpoints: (build) => ({
    rollouts: reads(build, rolloutEndpoints.list),
    rollout: reads(build, rolloutEndpoints.get),
    rolloutProgress: reads(build, progressEndpoints.get),
    rolloutRecord: reads(build, recordEndpoints.get),
    promises: reads(build, promiseEndpoints.kept),
    rolloutHosts: readsPages(build, rolloutEndpoints.hosts),
    rolloutCells: reads(build, rolloutEndpoints.cells),
    forecast: reads(build, rolloutEndpoints.forecast),
    suggestions: reads(build, rolloutEndpoints.suggest),
    startRollout: does(build, rolloutEndpoints.start),
    stopRollout: does(build, rolloutEndpoints.stop),
    rolloutRevisions: reads(build, rolloutEndpoints.revisions),
    planPreview: reads(build, rolloutEndpoints.previewPlan),
    changePlan: does(build, rolloutEndpoints.changePlan),
    pauseRollout: does(build, rolloutEndpoints.pause),
    letRolloutGoOn: does(build, rolloutEndpoints.goOn),
    wayBack: reads(build, rolloutEndpoints.wayBack),
    goBack: does(build, rolloutEndpoints.goBack),
    rolloutHost: does(build, rolloutEndpoints.host),
    recurring: reads(build, recurringEndpoints.list),
    keepRecurring: does(build, recurringEndpoints.keep),
    dropRecurring: does(build, recurringEndpoints.drop),
  }),
});
