/** Calls about the directory: units, join accounts and their rights. */
import { directoryEndpoints } from '@vatline/contract/directory';
import { api, does, reads } from './base.ts';

export const directoryApi = api.injectEndpoints({
  endpoints: (build) => ({
    units: reads(build, directoryEndpoints.units),
    makeUnit: does(build, directoryEndpoints.makeUnit),
    accounts: reads(build, directoryEndpoints.accounts),
    makeAccount: does(build, directoryEndpoints.makeAccount),
    givePassword: does(build, directoryEndpoints.givePassword),
    setRight: does(build, directoryEndpoints.setRight),
  }),
});
