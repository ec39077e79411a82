/** What will be another for whom. */
import { aheadEndpoints } from '@vatline/contract/ahead';
import { api, reads } from './base.ts';

export const aheadApi = api.injectEndpoints({
  endpoints: (build) => ({
    ahead: reads(build, aheadEndpoints.ahead),
  }),
});
