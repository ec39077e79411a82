/** Calls about who the person at the screen is taken for. */
import { callerEndpoints } from '@vatline/contract/caller';
import { api, does, reads } from './base.ts';

export const callerApi = api.injectEndpoints({
  endpoints: (build) => ({
    caller: reads(build, callerEndpoints.get),
    actAs: does(build, callerEndpoints.actAs),
  }),
});
