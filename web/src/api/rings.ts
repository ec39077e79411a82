/** Calls for orders of rings, and for rollouts that go through them. */
import { ringOrderEndpoints } from '@vatline/contract/rings/order';
import { stagedEndpoints } from '@vatline/contract/rings/staged';
import { api, does, reads } from './base.ts';

export const ringsApi = api.injectEndpoints({
  endpoints: (build) => ({
    ringOrders: reads(build, ringOrderEndpoints.list),
    addRingOrder: does(build, ringOrderEndpoints.add),
    keepRingOrder: does(build, ringOrderEndpoints.keep),
    removeRingOrder: does(build, ringOrderEndpoints.remove),
    ringsForecast: reads(build, ringOrderEndpoints.forecast),
    stagedRollouts: reads(build, stagedEndpoints.list),
    stagedRollout: reads(build, stagedEndpoints.get),
    startStaged: does(build, stagedEndpoints.start),
    decideAtGate: does(build, stagedEndpoints.decide),
    stopStaged: does(build, stagedEndpoints.stop),
  }),
});
