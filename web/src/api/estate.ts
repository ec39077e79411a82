/** Calls of the estate station, and of what others ask the outside systems. */
import { capacityEndpoints } from '@vatline/contract/capacity';
import { estateEndpoints } from '@vatline/contract/estate';
import { api, does, reads, readsPages } from './base.ts';

export const estateApi = api.injectEndpoints({
  endpoints: (build) => ({
    clock: reads(build, estateEndpoints.clock),
    setClock: does(build, estateEndpoints.setClock),
    assessment: reads(build, estateEndpoints.assessment),
    estate: reads(build, estateEndpoints.get),
    capacity: reads(build, capacityEndpoints.get),
    addSite: does(build, capacityEndpoints.addSite),
    quotaRequests: reads(build, estateEndpoints.quotaRequests),
    requestQuota: does(build, estateEndpoints.requestQuota),
    groups: reads(build, estateEndpoints.groups),
    users: readsPages(build, estateEndpoints.users),
    addFault: does(build, estateEndpoints.addFault),
    removeFault: does(build, estateEndpoints.removeFault),
    changeInSecret: does(build, estateEndpoints.changeInSecret),
  }),
});
