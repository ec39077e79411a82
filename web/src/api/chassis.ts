/** Calls about machines that stand in chassis. */
import { chassisEndpoints } from '@vatline/contract/chassis';
import { api, does, reads } from './base.ts';

export const chassisApi = api.injectEndpoints({
  endpoints: (build) => ({
    chassis: reads(build, chassisEndpoints.list),
    lookThrough: does(build, chassisEndpoints.look),
    stopLooking: does(build, chassisEndpoints.stopLooking),
  }),
});
