/**
 * What changed must have been told: every change of the contract is made on the running demo, and
 * every read whose answer is another one afterwards must have been named by the live stream, as the
 * application itself understands it; else a second person goes on looking at what is no more.
 */
import { configureStore } from '@reduxjs/toolkit';
import { afterAll, beforeAll, expect, it, vi } from 'vitest';
import type { KeptPlan } from '@vatline/contract/kept-plan';
import type { CaptureDraft } from '@vatline/contract/capture';
import type { KeptSchedule } from '@vatline/contract/cut-schedule';
import type { Topic } from '@vatline/contract/topics';
import type { ImageVersion, LineDetail, LineSummary } from '@vatline/contract/image';
import type { InstallationRow } from '@vatline/contract/installation';
import type { JournalRow } from '@vatline/contract/home';
import type { Job } from '@vatline/contract/job';
import type { KeptSuite } from '@vatline/contract/option-sheet';
import type { Certificate } from '@vatline/contract/package';
import type { Page } from '@vatline/contract/page';
import type { Readiness } from '@vatline/contract/pool/readiness';
import type { Streaming } from '@vatline/contract/pool/streaming';
import type { PoolDetail, PoolSummary } from '@vatline/contract/pool/endpoints';
import type { RingOrder } from '@vatline/contract/rings/order';
import type { PlannedRing } from '@vatline/contract/rings/ring';
import type { StagedSummary } from '@vatline/contract/rings/staged';
import type { Rollout, RolloutRequest } from '@vatline/contract/rollout';
import { RunningApp } from '../server/test/running-app.ts';
import { hostsOf, nightlyRollout, packagesOf, personLike, smallPool } from '../server/test/usual-requests.ts';
import { closedCalendar } from '@vatline/demo/closed-days';
import { api, tagsOfNews } from '../web/src/api/base.ts';
import '../web/src/api/access.ts';
import '../web/src/api/blends.ts';
import '../web/src/api/bulk.ts';
import '../web/src/api/calendars.ts';
import '../web/src/api/caller.ts';
import '../web/src/api/directory.ts';
import '../web/src/api/drift.ts';
import '../web/src/api/estate.ts';
import '../web/src/api/first-desktops.ts';
import '../web/src/api/home.ts';
import '../web/src/api/images.ts';
import '../web/src/api/installed.ts';
import '../web/src/api/jobs.ts';
import '../web/src/api/option-sheets.ts';
import '../web/src/api/packages.ts';
import '../web/src/api/ahead.ts';
import '../web/src/api/kept-plans.ts';
import '../web/src/api/planned.ts';
import '../web/src/api/chassis.ts';
import '../web/src/api/pools.ts';
import '../web/src/api/rings.ts';
import '../web/src/api/rollouts.ts';

let app: RunningApp;
let stream: LiveStream;

const store = configureStore({
  reducer: { [api.reducerPath]: api.reducer },
  middleware: (base) => base({ serializableCheck: false, immutableCheck: false }).concat(api.middleware),
});
type Args = Record<string, unknown>;
interface ApiEndpoint {
  readonly initiate: (args: Args, options?: object) => never;
  readonly useQuery?: unknown;
  readonly useInfiniteQuery?: unknown;
}
const endpoints = api.endpoints as unknown as Record<string, ApiEndpoint>;
const namesOf = (isRead: boolean) =>
  Object.keys(endpoints).filter((name) => {
    const { useQuery, useInfiniteQuery } = endpoints[name] ?? {};
    return ((useQuery ?? useInfiniteQuery) !== undefined) === isRead;
  });

const get = <T>(path: string): Promise<T> => app.api<T>(path);
const lines = () => get<LineSummary[]>('/lines');
const packages = () => packagesOf(get);
const pools = () => get<PoolSummary[]>('/pools');
const byId = (id: string | undefined) => ({ params: { id } });

/** The topics that the server tells everybody, as they come. */
class LiveStream {
  private heard: Topic[] = [];
  private readonly ending = new AbortController();

  static async open(address: string): Promise<LiveStream> {
    const live = new LiveStream();
    const { body } = await fetch(`${address}/api/v1/live`, { signal: live.ending.signal });
    if (!body) throw new Error('the live stream says nothing');
    live.listen(body).catch(() => undefined);
    return live;
  }

  /** What was told up to now. A change of the clock is told behind everything else, so it is waited for. */
  async told(): Promise<readonly Topic[]> {
    const before = this.heard.filter((topic) => topic === 'clock').length;
    await app.api('/estate/clock', { action: 'rate', rate: 0 });
    while (this.heard.filter((topic) => topic === 'clock').length === before)
      await new Promise((done) => setTimeout(done, 5));
    const topics = [...new Set(this.heard)];
    this.heard = [];
    return topics;
  }

  close(): void {
    this.ending.abort();
  }

  private async listen(body: ReadableStream<Uint8Array>): Promise<void> {
    const decoder = new TextDecoder();
    for await (const piece of body)
      for (const [, list] of decoder.decode(piece).matchAll(/^data: (.*)$/gm))
        this.heard.push(...(JSON.parse(list ?? '[]') as Topic[]));
  }
}

/** What each read is asked for, as one of the screens asks; several where a list and a thing of it differ. */
async function readsOfDemo(): Promise<Record<string, readonly Args[]>> {
  const [line] = await lines();
  const all = await packages();
  const versions = all.flatMap((one) => one.versions);
  const [pool] = await pools();
  const [installation] = await get<InstallationRow[]>('/installations');
  const [rollout] = await get<Rollout[]>('/rollouts');
  const [job] = await get<Job[]>('/jobs');
  const capture = await firstCapture();
  const hosts = await hostsOf(get, pool?.id ?? '');
  const { blends } = await get<PoolDetail>(`/pools/${pool?.id ?? ''}`);
  const withTwo = all.find((one) => one.versions.length > 1);
  const of = { line: byId(line?.id), pool: byId(pool?.id), capture: byId(capture) };
  const none: readonly Args[] = [{}];
  return {
    ...Object.fromEntries(namesOf(true).map((name) => [name, none])),
    tape: [{ query: { from: Date.UTC(2027, 0, 1), to: Date.UTC(2027, 3, 1) } }],
    ahead: [{ query: { of: 'pool', who: pool?.id, at: Date.UTC(2027, 3, 5) } }],
    keptPlans: [{ query: { pool: pool?.id } }],
    wayBack: [{ ...byId(rollout?.id), query: {} }],
    planned: [{ query: { from: Date.UTC(2027, 2, 1), to: Date.UTC(2027, 3, 5) } }],
    users: [{ query: { q: 'a' } }],
    line: [of.line],
    schedule: [of.line],
    lineHosts: [of.line],
    revisions: [of.line],
    delta: [{ query: { from: line?.versions[0]?.id, to: line?.versions[1]?.id } }],
    applications: [{ query: { q: 'a' } }],
    getCapture: [of.capture],
    judgement: [of.capture],
    draft: [of.capture],
    estimate: [{ ...of.capture, query: {} }],
    captureText: [],
    contents: [byId(versions[0]?.id)],
    clashes: [{ query: {} }],
    blendClashes: [{ body: { packageVersionIds: versions.slice(0, 3).map(({ id }) => id) } }],
    packageComparison: [
      { params: { id: withTwo?.versions[0]?.id }, query: { with: withTwo?.versions[1]?.id } },
    ],
    removalForecast: [byId(installation?.id)],
    installReport: [byId(installation?.id)],
    hostMounts: [{ params: { name: hosts[0]?.name } }],
    hostDisks: [{ params: { name: hosts[0]?.name } }],
    hostPeople: [{ params: { name: hosts[0]?.name } }],
    previewAction: [{ ...of.pool, body: { action: 'restart', hosts: hosts.map((host) => host.name) } }],
    firstPreview: [{ body: (await get<{ draft: object }>('/first-desktops')).draft }],
    // There is none before it is begun below.
    firstProgress: [],
    keptCopies: [of.pool],
    readiness: [of.pool],
    previewHosts: [{ ...of.pool, body: { count: 1 } }],
    pool: [of.pool],
    cells: [of.pool],
    poolHosts: [of.pool],
    poolBlends: [of.pool],
    blendComparison: [{ params: { id: blends[0]?.id }, query: { with: blends[1]?.id } }],
    blendChecks: [
      { body: { poolId: pool?.id, imageVersionId: blends[0]?.imageVersionId, packageVersionIds: [] } },
    ],
    rolloutHosts: [byId(rollout?.id)],
    rolloutCells: [byId(rollout?.id)],
    ledger: [byId(job?.id)],
    journal: [{ query: {} }],
    previewPool: [{ body: { pattern: 'WCL-T-#', start: 1, count: 3 } }],
    rollout: [byId(rollout?.id)],
    rolloutProgress: [byId(rollout?.id)],
    rolloutRecord: [byId(rollout?.id)],
    rolloutRevisions: [byId(rollout?.id)],
    // A question that changes nothing, and is asked anew by whoever changes the plan.
    planPreview: [],
    forecast: [],
    suggestions: [],
    ringsForecast: [],
    // There is none before it is begun below.
    stagedRollout: [],
    seeAs: [{ query: { user: await personLike(get, 'a') } }],
    jobs: [{ query: {} }],
    job: [byId(job?.id)],
  };
}

/** Every change, made so that it succeeds on the demo, in an order in which it can. */
const changes: Readonly<Record<string, () => Promise<Args> | Args>> = {
  actAs: () => ({ body: { role: 'approver' } }),
  changeInSecret: async () => ({ body: { host: await firstHost(), change: 'a program is installed' } }),
  lookForDrift: async () => ({ body: { poolId: (await pools())[0]?.id } }),
  addFault: async () => ({ body: { kind: 'agent silent', target: await firstHost() } }),
  removeFault: async () => byId((await get<{ faults: { id: string }[] }>('/estate')).faults[0]?.id),
  createLine: async () => ({
    body: { name: 'Told', purpose: 'to be told', hardware: (await firstLine()).hardware },
  }),
  saveRecipe: async () => {
    const line = await firstLine();
    return { ...byId(line.id), body: { steps: line.recipe.slice(0, -1), basedOn: line.recipeRevision } };
  },
  noteByHand: async () => ({ ...byId((await firstLine()).id), body: { text: 'a note' } }),
  setCheckpointBudget: async () => ({ ...byId((await firstLine()).id), body: { bytes: 5e9 } }),
  setRetention: async () => ({ ...byId((await firstLine()).id), body: { keep: 3 } }),
  deleteVersions: async () => {
    const [line, version] = (await lines())
      .flatMap((one) => one.versions.map((version) => [one, version] as const))
      .find(([, { neededBy }]) => neededBy.length === 0) as [LineSummary, ImageVersion];
    return { ...byId(line.id), body: { versionIds: [version.id] } };
  },
  switchCheckOff: async () => ({
    params: { id: (await firstLine()).id, check: 'tools before applications' },
    body: { reason: 'it is known to be so on this one' },
  }),
  switchCheckOn: async () => ({ params: { id: (await firstLine()).id, check: 'tools before applications' } }),
  keepSchedule: async () => {
    const { id } = await firstLine();
    const { schedule, revision } = await get<KeptSchedule>(`/lines/${id}/schedule`);
    const plain = { takeUpdates: true, onlyIfChanged: true, leaveRunning: false, waitHours: 0, rollouts: [] };
    const when = { rule: 'FREQ=WEEKLY;BYDAY=SA', at: '02:00', zone: 'Europe/Dublin' };
    return { ...byId(id), body: { ...plain, ...when, ...schedule, at: '02:10', basedOn: revision } };
  },
  dropSchedule: async () => byId((await firstLine()).id),
  keepFragment: async () => ({
    params: { name: 'told' },
    body: { steps: (await firstLine()).recipe.slice(0, 1), basedOn: 0 },
  }),
  makeDelta: async () => {
    const [line] = await lines();
    return { body: { from: line?.versions[1]?.id, to: line?.versions[0]?.id } };
  },
  build: async () => byId((await lines())[1]?.id),
  pauseJob: async () => byId(await jobOf('build')),
  goOnJob: async () => byId(await jobOf('build')),
  machine: async () => ({ ...byId((await firstLine()).id), body: { action: 'run' } }),
  setVersionState: async () => {
    const version = (await lines()).flatMap((line) => line.versions).find((one) => one.state === 'draft');
    return { ...byId(version?.id), body: { state: 'in test' } };
  },
  capture: () => ({ body: { installers: ['knapsel-2.9'] } }),
  judge: async () => ({ ...byId(await firstCapture()), body: { rules: null } }),
  keepDraft: async () => {
    const id = await firstCapture();
    const { manifest } = await get<CaptureDraft>(`/captures/${id}/draft`);
    return {
      ...byId(id),
      body: { manifest: { ...manifest, notes: 'told' }, confirmed: [], updatersOff: true },
    };
  },
  pack: async () => {
    const id = await firstCapture();
    const { manifest } = await get<CaptureDraft>(`/captures/${id}/draft`);
    return { ...byId(id), body: { ...manifest, version: '12.1', formats: ['squashfs', 'oci'] } };
  },
  chooseContainer: async () => ({ ...byId(await newestVersion('draft')), body: { format: 'oci' } }),
  sign: async () => {
    const certificate = (await get<Certificate[]>('/certificates')).find(
      (one) => one.fault === '' && one.trustedBy.length > 0,
    );
    return { ...byId(await newestVersion('draft')), body: { certificateId: certificate?.id } };
  },
  verify: async () => byId(await newestVersion('draft')),
  offer: async () => ({ ...byId(await newestVersion('verified')), body: {} }),
  trial: async () => ({
    ...byId((await packages()).flatMap((one) => one.versions).find((one) => one.state === 'live')?.id),
    body: { host: await firstHost() },
  }),
  setPackageState: async () => ({ ...byId(await newestVersion('live')), body: { state: 'held' } }),
  changePackage: async () => ({ ...byId((await packages())[0]?.id), body: { keepVersions: 2 } }),
  keepNoiseRules: () => ({
    params: { name: 'told' },
    body: { rules: [{ id: 'told', action: 'drop', glob: '**/*.told', reason: 'told' }], basedOn: 0 },
  }),
  tryNoiseRules: () => ({
    body: { rules: [{ id: 'told', action: 'drop', glob: '**/*.told', reason: 'told' }] },
  }),
  removeNoiseRules: () => ({ params: { name: 'told' } }),
  createInstallation: () => ({ body: { installer: null } }),
  keepInstallation: async () => {
    const row = await installation();
    return { ...byId(row.id), body: { ...row.installation, notification: 'told', basedOn: row.revision } };
  },
  forecastInstallation: async () => {
    const row = await installation();
    return { ...byId(row.id), body: row.installation };
  },
  takeAway: async () => byId((await installation()).id),
  removeInstallation: async () =>
    byId((await get<InstallationRow[]>('/installations')).find((row) => row.installation.name === '')?.id),
  createOptionSuite: async () => ({ body: { ...(await suite()).suite, name: 'Told' } }),
  changeOptionSuite: async () => {
    const { id, suite: kept, revision } = await suite();
    return { ...byId(id), body: { ...kept, publisher: 'Told', basedOn: revision } };
  },
  keepOptionSheet: async () => ({
    params: { id: (await suite()).id, name: 'told' },
    body: { values: (await suite()).sheets[0]?.values ?? {}, basedOn: 0 },
  }),
  removeOptionSheet: async () => ({ params: { id: (await suite()).id, name: 'told' } }),
  beginBulk: async () => ({
    body: {
      action: 'convert',
      format: 'oci',
      versionIds: [(await packages()).flatMap((one) => one.versions)[0]?.id],
    },
  }),
  setShareRights: async () => {
    const [share] = (await get<{ shares: { name: string }[] }>('/shares')).shares;
    return {
      params: { name: share?.name },
      body: { hosts: 'read', packagers: 'write', users: 'read' },
    };
  },
  requestQuota: () => ({ body: { site: 'yard-b', cores: 8, text: 'told' } }),
  addSite: () => ({
    body: {
      provider: 'Orrinside',
      region: 'north',
      name: 'told-1',
      networks: [{ name: 'desks', range: '10.40.4.0/24' }],
    },
  }),
  makeUnit: () => ({ body: { parent: '', name: 'Told' } }),
  makeAccount: () => ({ body: { name: 'join-told', unit: TOLD_UNIT, rightsOn: null } }),
  setRight: () => ({
    body: { unit: TOLD_UNIT, account: 'join-told', right: 'create computers', isGiven: true },
  }),
  actOnHosts: async () => {
    const [pool] = await pools();
    const [host] = await hostsOf(get, pool?.id ?? '');
    return { ...byId(pool?.id), body: { action: 'hold', hosts: [host?.name] } };
  },
  beginFirst: async () => ({ body: (await get<{ draft: object }>('/first-desktops')).draft }),
  changeSettings: async () => {
    const { id } = (await pools())[0] ?? {};
    const pool = await get<PoolDetail>(`/pools/${id ?? ''}`);
    const { settings, kind, clone, sessionLimit, settingsRevision: basedOn } = pool;
    const changed = { ...settings, kind, clone, sessionLimit, description: 'told' };
    return { ...byId(id), body: { settings: changed, basedOn } };
  },
  holdSource: async () => ({ ...byId((await pools()).at(-1)?.id), body: { reason: 'told' } }),
  keepReadiness: async () => {
    const { id } = (await pools())[0] ?? {};
    const { rules, revision } = await get<Readiness>(`/pools/${id ?? ''}/readiness`);
    return { ...byId(id), body: { rules: { ...rules, fewestHosts: 1 }, isKept: false, basedOn: revision } };
  },
  switchPool: async () => {
    const [pool] = (await get<Streaming>('/streaming')).pools;
    const version = pool?.versions.find((one) => one.refusal === '');
    return { ...byId(pool?.id), body: { imageVersionId: version?.id } };
  },
  restartIdle: async () => byId((await get<Streaming>('/streaming')).pools.find((pool) => pool.switch)?.id),
  lookThrough: () => ({ params: { name: 'rack-8' } }),
  stopLooking: () => ({ params: { name: 'rack-8' } }),
  addHosts: async () => {
    const linked = (await pools()).find((pool) => pool.clone === 'linked' && pool.kind === 'pooled');
    return { ...byId(linked?.id), body: { count: 1 } };
  },
  handOver: async () => {
    const dedicated = (await pools()).find((pool) => pool.kind === 'dedicated');
    const host = (await hostsOf(get, dedicated?.id ?? '')).at(-1);
    return { params: { name: host?.name }, body: { account: await personLike(get, 'archivist') } };
  },
  checkHost: async () => ({ params: { name: await firstHost() } }),
  assign: async () => ({
    body: {
      group: (await get<{ name: string }[]>('/estate/groups'))[0]?.name,
      poolId: (await pools())[0]?.id,
      target: { kind: 'desktop' },
    },
  }),
  unassign: async () => byId((await get<{ id: string }[]>('/assignments')).at(-1)?.id),
  createPool: async () => ({
    body: smallPool('told', (await approved((await lines())[0]))?.id, 'WCL-TOLD-#', 2),
  }),
  cancelJob: async () => byId(await jobOf('make pool')),
  undoJob: async () => byId((await get<Job[]>('/jobs')).find((job) => job.kind === 'make pool')?.id),
  startRollout: async () => ({ body: await rolloutRequest() }),
  addCalendar: () => ({ body: { name: 'told', text: closedCalendar.text } }),
  pauseRollout: async () => ({ ...byId(await openRollout()), body: { why: 'told' } }),
  letRolloutGoOn: async () => byId(await openRollout()),
  changePlan: async () => {
    const id = await openRollout();
    const { plan, revision } = await get<Rollout>(`/rollouts/${id}`);
    const changed = { ...plan, drainLimitMinutes: plan.drainLimitMinutes + 1 };
    return { ...byId(id), body: { plan: changed, why: 'told', basedOn: revision } };
  },
  keepRecurring: async () => {
    const [pool] = await pools();
    const { plan } = (await get<Rollout[]>('/rollouts'))[0] as Rollout;
    return { ...byId(pool?.id), body: { takes: 'made anew', plan, basedOn: 0 } };
  },
  dropRecurring: async () => byId((await pools())[0]?.id),
  addKeptPlan: async () => ({ body: { name: 'told', request: await rolloutRequest() } }),
  keepPlan: async () => ({
    ...byId((await keptPlan())?.id),
    body: { name: 'told', request: await rolloutRequest(), basedOn: 1 },
  }),
  dropKeptPlan: async () => byId((await keptPlan())?.id),
  stopRollout: async () => ({ ...byId(await openRollout()), body: { letsGo: true } }),
  addRingOrder: async () => ({ body: await toldOrder() }),
  keepRingOrder: async () => ({
    ...byId((await keptOrder())?.id),
    body: { ...(await toldOrder()), basedOn: 1 },
  }),
  startStaged: async () => {
    const { imageVersionId } = await rolloutRequest();
    const contents = { imageVersionId, packageVersionIds: [] };
    return { body: { orderId: (await keptOrder())?.id, revision: 2, contents } };
  },
  stopStaged: async () => {
    const [staged] = await get<StagedSummary[]>('/staged-rollouts');
    return { ...byId(staged?.id), body: { why: 'told' } };
  },
  removeRingOrder: async () => byId((await keptOrder())?.id),
  deletePackageVersions: async () => {
    const all = (await packages()).flatMap((one) => one.versions);
    const free = all.find(({ usedBy, neededBy }) => usedBy.length + neededBy.length === 0);
    return { ...byId(free?.packageId), body: { versionIds: [free?.id] } };
  },
  setClock: () => ({ body: { action: 'next event' } }),
};

const TOLD_UNIT = 'OU=Told,DC=wrenfield,DC=example';

/** Not made here, with the reason. */
const notMade: Readonly<Record<string, string>> = {
  changeByHand: 'needs a build machine at the screen, which the journeys of images have',
  beginInstallation: 'works at the pace of the agents, so its answers change with time',
  cut: 'takes its time in the estate, whose clock stands still; the journeys of images have one',
  deleteCertificate: 'every certificate of the demo has signed something',
  givePassword: 'needs an account whose password nobody here knows, which the tests of the directory have',
  dropCopy: 'needs a copy that was made, which the tests of host actions have',
  decideAtGate: 'needs a ring that waits for an approval, which the journey through rings has',
  goBack: 'needs a rollout that has come somewhere, which the tests of rollouts have',
  rolloutHost: 'needs a host that failed in a rollout, which the tests of rollouts have',
};

async function firstLine(): Promise<LineDetail> {
  return get<LineDetail>(`/lines/${(await lines())[0]?.id ?? ''}`);
}

/** The one that is finished. */
async function firstCapture(): Promise<string> {
  const all = (await packages()).flatMap((one) => one.captures);
  return [...all].sort((a, b) => a.createdAt - b.createdAt)[0]?.id ?? '';
}

async function newestVersion(state?: string): Promise<string | undefined> {
  const all = (await packages()).flatMap((one) => one.versions);
  const found = all.filter((one) => state === undefined || one.state === state);
  return [...found].sort((a, b) => b.builtAt - a.builtAt)[0]?.id;
}

async function firstHost(): Promise<string | undefined> {
  return (await hostsOf(get, (await pools())[0]?.id ?? ''))[0]?.name;
}

/** One that hosts have, not the empty one that was made here. */
async function installation(): Promise<InstallationRow> {
  const rows = await get<InstallationRow[]>('/installations');
  return rows.find((row) => row.installation.name !== '') as InstallationRow;
}

async function suite(): Promise<KeptSuite> {
  return (await get<KeptSuite[]>('/option-suites'))[0] as KeptSuite;
}

async function jobOf(kind: string): Promise<string | undefined> {
  return (await get<Job[]>('/jobs')).find((job) => job.kind === kind)?.id;
}

function approved(line: LineSummary | undefined, but?: string) {
  return line?.versions.find((one) => one.state === 'approved' && one.id !== but);
}

async function openRollout(): Promise<string> {
  return (await get<Rollout[]>('/rollouts')).find((one) => one.endedAt === null)?.id ?? '';
}

const keptPlan = async () => {
  const { poolId } = await rolloutRequest();
  return (await get<KeptPlan[]>(`/kept-plans?pool=${poolId ?? ''}`))[0];
};
const keptOrder = async () => (await get<RingOrder[]>('/ring-orders')).find((order) => order.name === 'told');

async function toldOrder(): Promise<{ name: string; rings: PlannedRing[] }> {
  const {
    poolId,
    imageVersionId: _image,
    packageVersionIds: _packages,
    isRemake: _remake,
    onlyHosts: _hosts,
    ...plan
  } = await rolloutRequest();
  const gate = {
    finishedShare: 1,
    soakHours: 0,
    needsApproval: false,
    watchesSignIns: false,
    goesBack: false,
  };
  return { name: 'told', rings: [{ name: 'all', poolId, take: { by: 'rest' }, plan, gate }] };
}

async function rolloutRequest(): Promise<RolloutRequest> {
  const all = await lines();
  const open = (await get<Rollout[]>('/rollouts')).filter((one) => one.endedAt === null);
  // The one that streams is switched to another image here.
  for (const pool of (await pools()).filter(({ clone }) => clone !== 'network')) {
    const version = approved(
      all.find((line) => line.id === pool.lineId),
      pool.blend?.imageVersionId,
    );
    if (!version || pool.hosts === 0 || open.some((one) => one.poolId === pool.id)) continue;
    return nightlyRollout(pool.id, version.id, 2);
  }
  throw new Error('no pool can be rolled out to');
}

/** Every read by its key in the application's cache: what was asked, and the answer. */
interface Asked {
  readonly key: string;
  readonly name: string;
  readonly request: Request;
}
let asked: readonly Asked[];

/** Asks each read as the application does, so that its cache knows what each depends on. */
async function askAll(): Promise<Asked[]> {
  const list: Asked[] = [];
  for (const [name, all] of Object.entries(await readsOfDemo()))
    for (const args of all) {
      const query = store.dispatch(endpoints[name]?.initiate(args) as never) as unknown as Promise<{
        isSuccess: boolean;
        error?: unknown;
      }> & { queryCacheKey: string };
      const { isSuccess, error } = await query;
      if (!isSuccess || !sent) throw new Error(`${name}: ${JSON.stringify(error)}`);
      list.push({ key: query.queryCacheKey, name, request: sent });
    }
  return list;
}

async function answers(): Promise<Map<string, string>> {
  const found = new Map<string, string>();
  for (const { key, request } of asked) {
    // As it is now, not as it was made for somebody a moment ago.
    const response = await fetch(new Request(request.clone(), { headers: { 'cache-control': 'no-cache' } }));
    found.set(key, `${response.status} ${await response.text()}`);
  }
  return found;
}

/** Jobs that compute; all others wait for the estate, whose clock stands still. */
const ofOurOwn = new Set(['bulk', 'compare', 'delta', 'pack']);

/** The answers once nothing more is told and nothing computes, and everything that was told until then. */
async function settled(): Promise<{ now: Map<string, string>; told: Set<Topic> }> {
  const told = new Set<Topic>();
  for (;;) {
    for (const topic of await stream.told()) told.add(topic);
    const works = (await get<Job[]>('/jobs')).some(
      (job) => job.state === 'running' && ofOurOwn.has(job.kind),
    );
    if (works) continue;
    const now = await answers();
    const more = await stream.told();
    for (const topic of more) told.add(topic);
    if (more.every((topic) => topic === 'clock')) return { now, told };
  }
}

beforeAll(async () => {
  app = await RunningApp.start();
  await app.api('/estate/clock', { action: 'rate', rate: 0 });
  await captureSomething();
  stream = await LiveStream.open(app.address);
  vi.stubGlobal('Request', ToTheApp);
  asked = await askAll();
  before = (await settled()).now;
  await writtenDown();
});
afterAll(async () => {
  vi.unstubAllGlobals();
  stream.close();
  await app.stop();
});

/** The demo has no capture at first, and its screens ask for one. */
async function captureSomething(): Promise<void> {
  const { jobId } = await app.api<{ jobId: string }>('/captures', { installers: ['cartolune-12'] });
  const isOver = async () => (await get<Job>(`/jobs/${jobId}`)).state === 'done';
  while (!(await isOver())) await app.api('/estate/clock', { action: 'next event' });
}

let before: Map<string, string>;

it('every read is asked, every change is made or has its reason', () => {
  expect([...Object.keys(changes), ...Object.keys(notMade)].sort()).toEqual(namesOf(false).sort());
});

it.each(Object.keys(changes))('%s tells of all that it changes', async (name) => {
  const made = await change(name, (await changes[name]?.()) ?? {});
  expect([name, made]).toEqual([name, 200]);
  const { now, told } = await settled();
  const named = new Set(
    api.util
      .selectInvalidatedBy(store.getState() as never, tagsOfNews([...told]))
      .map((one) => one.queryCacheKey as string),
  );
  const untold = asked.filter(({ key }) => now.get(key) !== before.get(key) && !named.has(key));
  before = now;
  expect([...told, ...untold.map((one) => one.name)]).toEqual([...told]);
  const written = await writtenDown();
  // What the clock leads to is the doing of those who began it, if anybody did.
  if (name === 'setClock') return;
  expect(written).toEqual(notWritten[name] === undefined ? ['approver'] : []);
});

/** What leaves no trace in the journal, with the reason; all else does, or is a job of the one who acts. */
const notWritten: Readonly<Record<string, string>> = {
  actAs: 'changes nothing that anybody else looks at',
  changeInSecret: 'is what somebody does and tells nobody',
  checkHost: 'asks an agent and changes nothing',
  forecastInstallation: 'changes nothing',
  keepDraft: 'is kept as it is typed',
  tryNoiseRules: 'changes nothing',
};

let seen = { note: 0, jobs: new Set<string>() };

/** Whose doing the notes and jobs are that came since this was asked last; each role once. */
async function writtenDown(): Promise<string[]> {
  const [notes, jobs] = [
    (await get<Page<JournalRow>>('/journal?limit=200')).rows,
    await get<Job[]>('/jobs?limit=200'),
  ];
  const came = [
    ...notes.filter((note) => note.id > seen.note),
    ...jobs.filter((job) => !seen.jobs.has(job.id)),
  ];
  seen = { note: notes[0]?.id ?? 0, jobs: new Set(jobs.map((job) => job.id)) };
  return [...new Set(came.flatMap(({ by }) => (by === null ? [] : [by])))];
}

/** The status of the answer; the fault in words when it is refused. */
async function change(name: string, args: Args): Promise<number | string> {
  const { error } = (await store.dispatch(endpoints[name]?.initiate(args) as never)) as unknown as {
    error?: { status: number; data: unknown };
  };
  return error ? `${error.status} ${JSON.stringify(error.data)} ${sent?.url}` : 200;
}

/** What the application sent last. */
let sent: Request | undefined;

/** The application asks its own origin, which there is none of here. */
class ToTheApp extends Request {
  constructor(input: RequestInfo | URL, init?: RequestInit) {
    super(typeof input === 'string' && input.startsWith('/') ? app.address + input : input, init);
    sent = this.clone();
  }
}
