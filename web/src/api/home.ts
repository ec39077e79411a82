/** Calls of home, the journal and the tape. */
import { homeEndpoints } from '@vatline/contract/home';
import { api, reads, readsPages } from './base.ts';

export const homeApi = api.injectEndpoints({
  endpoints: (build) => ({
    home: reads(build, homeEndpoints.home),
    waiting: reads(build, homeEndpoints.waiting),
    journal: readsPages(build, homeEndpoints.journal),
    tape: reads(build, homeEndpoints.tape),
  }),
});
