/** Calls of first desktops. */
import { firstDesktopsEndpoints } from '@vatline/contract/first-desktops';
import { api, does, reads } from './base.ts';

export const firstDesktopsApi = api.injectEndpoints({
  endpoints: (build) => ({
    firstProposal: reads(build, firstDesktopsEndpoints.propose),
    firstPreview: reads(build, firstDesktopsEndpoints.preview),
    beginFirst: does(build, firstDesktopsEndpoints.begin),
    firstProgress: reads(build, firstDesktopsEndpoints.progress),
  }),
});
