/** Calls about what agents install. */
import { installationEndpoints } from '@vatline/contract/installation';
import { api, does, reads } from './base.ts';

export const installedApi = api.injectEndpoints({
  endpoints: (build) => ({
    installations: reads(build, installationEndpoints.list),
    createInstallation: does(build, installationEndpoints.create),
    keepInstallation: does(build, installationEndpoints.keep),
    removeInstallation: does(build, installationEndpoints.remove),
    forecastInstallation: does(build, installationEndpoints.forecast),
    beginInstallation: does(build, installationEndpoints.begin),
    removalForecast: reads(build, installationEndpoints.removal),
    takeAway: does(build, installationEndpoints.takeAway),
    installReport: reads(build, installationEndpoints.report),
  }),
});
