/** Calls for blends: who runs what, what is another, and whether one can be used. */
import { blendEndpoints } from '@vatline/contract/blends';
import { api, reads, readsPages } from './base.ts';

export const blendsApi = api.injectEndpoints({
  endpoints: (build) => ({
    blendsInUse: reads(build, blendEndpoints.inUse),
    poolBlends: readsPages(build, blendEndpoints.ofPool),
    blendComparison: reads(build, blendEndpoints.comparison),
    blendChecks: reads(build, blendEndpoints.checks),
  }),
});
