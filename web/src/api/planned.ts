/** Calls of the calendar. */
import { plannedEndpoints } from '@vatline/contract/planned';
import { api, reads } from './base.ts';

export const plannedApi = api.injectEndpoints({
  endpoints: (build) => ({
    planned: reads(build, plannedEndpoints.between),
  }),
});
