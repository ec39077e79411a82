/** Calls of option sheets. */
import { optionSheetEndpoints } from '@vatline/contract/option-sheet';
import { api, does, reads } from './base.ts';

export const optionSheetsApi = api.injectEndpoints({
  endpoints: (build) => ({
    optionSuites: reads(build, optionSheetEndpoints.list),
    createOptionSuite: does(build, optionSheetEndpoints.create),
    changeOptionSuite: does(build, optionSheetEndpoints.change),
    keepOptionSheet: does(build, optionSheetEndpoints.keepSheet),
    removeOptionSheet: does(build, optionSheetEndpoints.removeSheet),
  }),
});
