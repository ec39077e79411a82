/** Calls to the server. Arguments and answers have the types of the contract. */
import { createApi, fetchBaseQuery, type EndpointBuilder } from '@reduxjs/toolkit/query/react';
import type { z } from 'zod';
import { accessEndpoints } from '@vatline/contract/access';
import { applicationSearchEndpoints } from '@vatline/contract/application-search';
import { bulkEndpoints } from '@vatline/contract/bulk';
import { captureEndpoints } from '@vatline/contract/capture';
import type { Endpoint, Problem } from '@vatline/contract/endpoint';
import { cutScheduleEndpoints } from '@vatline/contract/cut-schedule';
import { estateEndpoints } from '@vatline/contract/estate';
import { fragmentEndpoints } from '@vatline/contract/fragment';
import { handWorkEndpoints } from '@vatline/contract/hand-work';
import { hostEndpoints } from '@vatline/contract/pool/host';
import { homeEndpoints, topics, type Topic } from '@vatline/contract/home';
import { imageEndpoints } from '@vatline/contract/image';
import { installationEndpoints } from '@vatline/contract/installation';
import { jobEndpoints } from '@vatline/contract/job';
import { noiseRuleEndpoints } from '@vatline/contract/noise-rules';
import { optionSheetEndpoints } from '@vatline/contract/option-sheet';
import { packageEndpoints } from '@vatline/contract/package';
import { poolEndpoints } from '@vatline/contract/pool/endpoints';
import { rolloutEndpoints } from '@vatline/contract/rollout';
import { shareEndpoints } from '@vatline/contract/share';

type AnyEndpoint = Endpoint<z.ZodType, z.ZodType, z.ZodType, z.ZodType>;

/** As callers hold it: what is sent is never changed. */
type Given<T> = T extends readonly (infer Element)[]
  ? readonly Given<Element>[]
  : T extends object
    ? { readonly [Key in keyof T]: Given<T[Key]> }
    : T;

/** What a caller gives: parameters of the address, of the query, and the body; each only if taken. */
interface Call<E extends AnyEndpoint> {
  readonly params?: z.input<E['params']>;
  readonly query?: z.input<E['query']>;
  readonly body?: Given<z.input<E['body']>>;
}

const baseQuery = fetchBaseQuery({ baseUrl: '/api/v1' });
type Builder = EndpointBuilder<typeof baseQuery, Topic, 'api'>;

function request(endpoint: AnyEndpoint, call: Call<AnyEndpoint>) {
  const params = (call.params ?? {}) as Record<string, string>;
  const url = endpoint.path.replace(/:(\w+)/g, (_match, name: string) =>
    encodeURIComponent(params[name] ?? ''),
  );
  return {
    url,
    method: endpoint.method.toUpperCase(),
    ...(call.query ? { params: call.query as Record<string, unknown> } : {}),
    ...(call.body === undefined ? {} : { body: call.body as object }),
  };
}

function reads<E extends AnyEndpoint>(build: Builder, endpoint: E, ...changedBy: Topic[]) {
  return build.query<z.output<E['response']>, Call<E>>({
    query: (call) => request(endpoint, call as Call<AnyEndpoint>),
    providesTags: changedBy,
  });
}

function does<E extends AnyEndpoint>(build: Builder, endpoint: E, ...changes: Topic[]) {
  return build.mutation<z.output<E['response']>, Call<E>>({
    query: (call) => request(endpoint, call as Call<AnyEndpoint>),
    invalidatesTags: changes,
  });
}

export const api = createApi({
  reducerPath: 'api',
  baseQuery,
  tagTypes: topics,
  endpoints: (build) => ({
    home: reads(build, homeEndpoints.home, 'images', 'packages', 'pools', 'rollouts', 'jobs'),
    journal: reads(build, homeEndpoints.journal, 'journal'),
    tape: reads(build, homeEndpoints.tape, 'rollouts', 'jobs', 'images'),
    clock: reads(build, estateEndpoints.clock, 'clock'),
    setClock: does(build, estateEndpoints.setClock, 'clock'),
    assessment: reads(build, estateEndpoints.assessment),
    estate: reads(build, estateEndpoints.get, 'estate', 'clock'),
    units: reads(build, estateEndpoints.units, 'estate'),
    groups: reads(build, estateEndpoints.groups, 'estate'),
    users: reads(build, estateEndpoints.users, 'estate'),
    addFault: does(build, estateEndpoints.addFault, 'estate'),
    removeFault: does(build, estateEndpoints.removeFault, 'estate'),
    lines: reads(build, imageEndpoints.lines, 'images', 'jobs'),
    line: reads(build, imageEndpoints.line, 'images', 'jobs', 'packages'),
    createLine: does(build, imageEndpoints.createLine, 'images'),
    saveRecipe: does(build, imageEndpoints.saveRecipe, 'images'),
    build: does(build, imageEndpoints.build, 'images', 'jobs'),
    machine: does(build, imageEndpoints.machine, 'images', 'jobs'),
    cut: does(build, imageEndpoints.cut, 'images', 'jobs'),
    schedule: reads(build, cutScheduleEndpoints.get, 'images', 'rollouts'),
    keepSchedule: does(build, cutScheduleEndpoints.keep, 'images'),
    dropSchedule: does(build, cutScheduleEndpoints.drop, 'images'),
    deleteVersions: does(build, imageEndpoints.deleteVersions, 'images', 'jobs'),
    setRetention: does(build, imageEndpoints.setRetention, 'images'),
    switchCheckOff: does(build, imageEndpoints.switchCheckOff, 'images'),
    switchCheckOn: does(build, imageEndpoints.switchCheckOn, 'images'),
    setVersionState: does(build, imageEndpoints.setState, 'images'),
    lineHosts: reads(build, imageEndpoints.hosts, 'pools'),
    revisions: reads(build, imageEndpoints.revisions, 'images'),
    setCheckpointBudget: does(build, imageEndpoints.setCheckpointBudget, 'images'),
    delta: reads(build, imageEndpoints.delta, 'jobs'),
    makeDelta: does(build, imageEndpoints.makeDelta, 'jobs'),
    fragments: reads(build, fragmentEndpoints.list, 'images'),
    keepFragment: does(build, fragmentEndpoints.keep, 'images'),
    noteByHand: does(build, handWorkEndpoints.note, 'images'),
    changeByHand: does(build, handWorkEndpoints.change, 'images'),
    applications: reads(build, applicationSearchEndpoints.search, 'images', 'pools', 'packages'),
    packages: reads(build, packageEndpoints.list, 'packages', 'jobs'),
    installers: reads(build, captureEndpoints.installers),
    capture: does(build, captureEndpoints.capture, 'packages', 'jobs'),
    getCapture: reads(build, captureEndpoints.getCapture, 'packages', 'jobs'),
    judgement: reads(build, captureEndpoints.judgement, 'packages'),
    judge: does(build, captureEndpoints.judge, 'packages'),
    captureText: reads(build, captureEndpoints.text),
    draft: reads(build, captureEndpoints.draft, 'packages', 'drafts'),
    keepDraft: does(build, captureEndpoints.keepDraft, 'drafts'),
    estimate: reads(build, captureEndpoints.estimate, 'packages'),
    noiseRules: reads(build, noiseRuleEndpoints.list, 'packages'),
    tryNoiseRules: does(build, noiseRuleEndpoints.try),
    keepNoiseRules: does(build, noiseRuleEndpoints.keep, 'packages'),
    removeNoiseRules: does(build, noiseRuleEndpoints.remove, 'packages'),
    pack: does(build, captureEndpoints.pack, 'packages', 'jobs'),
    verify: does(build, packageEndpoints.verify, 'packages'),
    sign: does(build, packageEndpoints.sign, 'packages'),
    chooseContainer: does(build, packageEndpoints.choose, 'packages'),
    contents: reads(build, packageEndpoints.contents, 'packages'),
    clashes: reads(build, packageEndpoints.clashes, 'packages'),
    blendClashes: reads(build, packageEndpoints.blendClashes, 'packages'),
    certificates: reads(build, packageEndpoints.certificates, 'packages', 'pools'),
    deleteCertificate: does(build, packageEndpoints.deleteCertificate, 'packages'),
    changePackage: does(build, packageEndpoints.change, 'packages', 'access'),
    deletePackageVersions: does(build, packageEndpoints.deleteVersions, 'packages', 'estate'),
    packageComparison: reads(build, packageEndpoints.compareVersions, 'packages', 'pools'),
    offer: does(build, packageEndpoints.offer, 'packages', 'jobs'),
    trial: does(build, packageEndpoints.trial, 'packages', 'jobs'),
    installations: reads(build, installationEndpoints.list, 'packages', 'jobs'),
    createInstallation: does(build, installationEndpoints.create, 'packages'),
    keepInstallation: does(build, installationEndpoints.keep, 'packages'),
    removeInstallation: does(build, installationEndpoints.remove, 'packages'),
    forecastInstallation: does(build, installationEndpoints.forecast),
    beginInstallation: does(build, installationEndpoints.begin, 'packages', 'jobs'),
    removalForecast: reads(build, installationEndpoints.removal, 'packages', 'jobs', 'pools'),
    takeAway: does(build, installationEndpoints.takeAway, 'packages', 'jobs'),
    installReport: reads(build, installationEndpoints.report, 'packages', 'jobs'),
    optionSuites: reads(build, optionSheetEndpoints.list, 'packages'),
    createOptionSuite: does(build, optionSheetEndpoints.create, 'packages'),
    changeOptionSuite: does(build, optionSheetEndpoints.change, 'packages'),
    keepOptionSheet: does(build, optionSheetEndpoints.keepSheet, 'packages'),
    removeOptionSheet: does(build, optionSheetEndpoints.removeSheet, 'packages'),
    bulk: reads(build, bulkEndpoints.newest, 'packages', 'jobs', 'access'),
    beginBulk: does(build, bulkEndpoints.begin, 'packages', 'jobs'),
    shareDemand: reads(build, shareEndpoints.demand, 'packages', 'estate', 'pools'),
    setShareRights: does(build, shareEndpoints.setRights, 'packages', 'estate'),
    hostMounts: reads(build, hostEndpoints.mounts, 'pools', 'packages', 'estate'),
    checkHost: does(build, hostEndpoints.check, 'pools', 'estate'),
    setPackageState: does(build, packageEndpoints.setState, 'packages', 'access'),
    pools: reads(build, poolEndpoints.list, 'pools', 'jobs'),
    pool: reads(build, poolEndpoints.get, 'pools', 'jobs'),
    previewPool: reads(build, poolEndpoints.preview, 'estate'),
    createPool: does(build, poolEndpoints.create, 'pools', 'jobs'),
    rollouts: reads(build, rolloutEndpoints.list, 'rollouts'),
    rollout: reads(build, rolloutEndpoints.get, 'rollouts', 'pools'),
    forecast: reads(build, rolloutEndpoints.forecast),
    suggestions: reads(build, rolloutEndpoints.suggest),
    startRollout: does(build, rolloutEndpoints.start, 'rollouts', 'pools'),
    stopRollout: does(build, rolloutEndpoints.stop, 'rollouts', 'pools'),
    goBack: does(build, rolloutEndpoints.goBack, 'rollouts', 'pools'),
    rolloutHost: does(build, rolloutEndpoints.host, 'rollouts', 'pools'),
    assignments: reads(build, accessEndpoints.list, 'access'),
    assign: does(build, accessEndpoints.assign, 'access'),
    unassign: does(build, accessEndpoints.remove, 'access'),
    seeAs: reads(build, accessEndpoints.seeAs, 'access', 'pools', 'packages'),
    jobs: reads(build, jobEndpoints.list, 'jobs'),
    job: reads(build, jobEndpoints.get, 'jobs'),
    cancelJob: does(build, jobEndpoints.cancel, 'jobs'),
    pauseJob: does(build, jobEndpoints.pause, 'jobs'),
    goOnJob: does(build, jobEndpoints.goOn, 'jobs'),
    undoJob: does(build, jobEndpoints.undo, 'jobs', 'pools'),
  }),
});

/** The problem document of a failed call; a made-up one when the server gave none. */
export function problemOf(error: unknown): Problem | undefined {
  if (!error || typeof error !== 'object') return undefined;
  const { data, status } = error as { data?: unknown; status?: unknown };
  if (data && typeof data === 'object' && 'detail' in data)
    return { ...(data as Problem), faults: (data as Partial<Problem>).faults ?? [] };
  const detail =
    status === 'FETCH_ERROR'
      ? 'The server does not answer; is it still running?'
      : 'The server gave no reason';
  return { type: 'about:blank', title: 'Failed', status: 0, detail, faults: [] };
}

/** The message at one field of a problem. */
export function faultAt(problem: Problem | undefined, path: string): string | undefined {
  return problem?.faults.find((fault) => fault.path === path)?.message;
}
