/** Calls for drift: what hosts really have. */
import { driftEndpoints } from '@vatline/contract/drift';
import { api, does, reads, readsPages } from './base.ts';

export const driftApi = api.injectEndpoints({
  endpoints: (build) => ({
    driftedHosts: readsPages(build, driftEndpoints.list),
    driftByPool: reads(build, driftEndpoints.pools),
    lookForDrift: does(build, driftEndpoints.look),
  }),
});
