/** Calls of plans that are kept and not begun. */
import { keptPlanEndpoints } from '@vatline/contract/kept-plan';
import { api, does, reads } from './base.ts';

export const keptPlansApi = api.injectEndpoints({
  endpoints: (build) => ({
    keptPlans: reads(build, keptPlanEndpoints.list),
    addKeptPlan: does(build, keptPlanEndpoints.add),
    keepPlan: does(build, keptPlanEndpoints.keep),
    dropKeptPlan: does(build, keptPlanEndpoints.drop),
  }),
});
