/** Calls of the images station. */
import { applicationSearchEndpoints } from '@vatline/contract/application-search';
import { cutScheduleEndpoints } from '@vatline/contract/cut-schedule';
import { fragmentEndpoints } from '@vatline/contract/fragment';
import { handWorkEndpoints } from '@vatline/contract/hand-work';
import { imageEndpoints } from '@vatline/contract/image';
import { api, does, reads } from './base.ts';

export const imagesApi = api.injectEndpoints({
  endpoints: (build) => ({
    lines: reads(build, imageEndpoints.lines),
    line: reads(build, imageEndpoints.line),
    createLine: does(build, imageEndpoints.createLine),
    saveRecipe: does(build, imageEndpoints.saveRecipe),
    build: does(build, imageEndpoints.build),
    machine: does(build, imageEndpoints.machine),
    cut: does(build, imageEndpoints.cut),
    schedule: reads(build, cutScheduleEndpoints.get),
    keepSchedule: does(build, cutScheduleEndpoints.keep),
    dropSchedule: does(build, cutScheduleEndpoints.drop),
    deleteVersions: does(build, imageEndpoints.deleteVersions),
    setRetention: does(build, imageEndpoints.setRetention),
    switchCheckOff: does(build, imageEndpoints.switchCheckOff),
    switchCheckOn: does(build, imageEndpoints.switchCheckOn),
    setVersionState: does(build, imageEndpoints.setState),
    lineHosts: reads(build, imageEndpoints.hosts),
    revisions: reads(build, imageEndpoints.revisions),
    setCheckpointBudget: does(build, imageEndpoints.setCheckpointBudget),
    delta: reads(build, imageEndpoints.delta),
    makeDelta: does(build, imageEndpoints.makeDelta),
    fragments: reads(build, fragmentEndpoints.list),
    keepFragment: does(build, fragmentEndpoints.keep),
    noteByHand: does(build, handWorkEndpoints.note),
    changeByHand: does(build, handWorkEndpoints.change),
    applications: reads(build, applicationSearchEndpoints.search),
  }),
});
