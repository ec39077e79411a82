/** Calls of lists that are worked through. */
import { bulkEndpoints } from '@vatline/contract/bulk';
import { api, does, reads } from './base.ts';

export const bulkApi = api.injectEndpoints({
  endpoints: (build) => ({
    bulk: reads(build, bulkEndpoints.newest),
    beginBulk: does(build, bulkEndpoints.begin),
  }),
});
