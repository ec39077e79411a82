/** Calls of the access station. */
import { accessEndpoints } from '@vatline/contract/access';
import { api, does, reads } from './base.ts';

export const accessApi = api.injectEndpoints({
  endpoints: (build) => ({
    assignments: reads(build, accessEndpoints.list),
    assign: does(build, accessEndpoints.assign),
    unassign: does(build, accessEndpoints.remove),
    seeAs: reads(build, accessEndpoints.seeAs),
  }),
});
