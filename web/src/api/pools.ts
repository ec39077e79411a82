/** Calls of the pools station. */
import { poolEndpoints } from '@vatline/contract/pool/endpoints';
import { datastoreEndpoints } from '@vatline/contract/pool/datastore';
import { poolHealthEndpoints } from '@vatline/contract/pool/health';
import { hostActionEndpoints } from '@vatline/contract/pool/host-action';
import { moreHostsEndpoints } from '@vatline/contract/pool/more-hosts';
import { poolSettingsEndpoints } from '@vatline/contract/pool/settings';
import { readinessEndpoints } from '@vatline/contract/pool/readiness';
import { streamingEndpoints } from '@vatline/contract/pool/streaming';
import { hostEndpoints } from '@vatline/contract/pool/host';
import { api, does, reads, readsPages } from './base.ts';

export const poolsApi = api.injectEndpoints({
  endpoints: (build) => ({
    poolHealth: reads(build, poolHealthEndpoints.list),
    datastores: reads(build, datastoreEndpoints.list),
    hostDisks: reads(build, datastoreEndpoints.ofHost),
    hostMounts: reads(build, hostEndpoints.mounts),
    checkHost: does(build, hostEndpoints.check),
    pools: reads(build, poolEndpoints.list),
    pool: reads(build, poolEndpoints.get),
    cells: reads(build, poolEndpoints.cells),
    poolHosts: readsPages(build, poolEndpoints.hosts),
    hosts: reads(build, hostEndpoints.search),
    changeSettings: does(build, poolSettingsEndpoints.change),
    holdSource: does(build, poolEndpoints.holdSource),
    previewPool: reads(build, poolEndpoints.preview),
    previewAction: reads(build, hostActionEndpoints.preview),
    keptCopies: reads(build, hostActionEndpoints.copies),
    dropCopy: does(build, hostActionEndpoints.dropCopy),
    actOnHosts: does(build, hostActionEndpoints.act),
    hostPeople: reads(build, hostEndpoints.people),
    handOver: does(build, hostEndpoints.handOver),
    readiness: reads(build, readinessEndpoints.get),
    keepReadiness: does(build, readinessEndpoints.keep),
    previewHosts: reads(build, moreHostsEndpoints.preview),
    addHosts: does(build, moreHostsEndpoints.add),
    streaming: reads(build, streamingEndpoints.get),
    switchPool: does(build, streamingEndpoints.switchPool),
    restartIdle: does(build, streamingEndpoints.restartIdle),
    createPool: does(build, poolEndpoints.create),
  }),
});
