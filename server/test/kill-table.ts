/**
 * A table of kill points: one piece of work on the demo, done again and again, the server killed
 * after its first change of the databases, after its second, and so on to its last; each time it is
 * started again and let come to its end, and everything is counted.
 */
import { join } from 'node:path';
import type { BlendUse } from '@vatline/contract/blends';
import type { PoolSummary } from '@vatline/contract/pool/endpoints';
import type { Streaming } from '@vatline/contract/pool/streaming';
import type { StagedSummary } from '@vatline/contract/rings/staged';
import type { Rollout } from '@vatline/contract/rollout';
import { allJobs, comeToAnEnd, whatIsWrong } from './aftermath.ts';
import { copyDemo } from './filled-demo.ts';
import { RunningApp } from './running-app.ts';
import { nightlyRollout, smallPool } from './usual-requests.ts';

export const killedWorks = [
  'pool',
  'job',
  'cut',
  'package',
  'rollout',
  'attach',
  'rings',
  'switch',
  'chassis',
  'first',
] as const;
export type KilledWork = (typeof killedWorks)[number];

export interface KillTable {
  readonly work: KilledWork;
  /** Changes after which it was killed, the first and the last. */
  readonly points: readonly number[];
  /** What was not as it should be afterwards, by point. */
  readonly wrong: Readonly<Record<number, readonly string[]>>;
}

const preload = join(import.meta.dirname, 'kill-at-write.cjs');
/** No piece of work here changes the databases so often. */
const MOST_POINTS = 2_000;

export interface KillPoints {
  readonly first?: number;
  readonly every?: number;
  /** No more points than this. */
  readonly most?: number;
  /** Hears of each point. */
  readonly tell?: (point: number, wrong: readonly string[]) => void;
}

/** Kills after each `every`-th change from `first` on. */
export async function killTable(
  work: KilledWork,
  { first = 1, every = 1, most = MOST_POINTS, tell }: KillPoints = {},
): Promise<KillTable> {
  const points: number[] = [];
  const wrong: Record<number, readonly string[]> = {};
  for (let point = first; point < MOST_POINTS && points.length < most; point += every) {
    const found = await killedAfter(work, point);
    if (!found) break;
    points.push(point);
    tell?.(point, found);
    if (found.length > 0) wrong[point] = found;
  }
  return { work, points, wrong };
}

/** What is wrong after a kill at this change; nothing when the work has fewer. */
async function killedAfter(work: KilledWork, point: number): Promise<readonly string[] | undefined> {
  const app = RunningApp.inNewFolder();
  try {
    await copyDemo(app.folder);
    await app.launchWith({ NODE_OPTIONS: `--require ${preload}`, KILL_AT_WRITE: String(point) });
    await app.api('/estate/clock', { action: 'rate', rate: 0 });
    app.signal('SIGUSR2');
    if (!(await isKilledIn(app, work))) return undefined;
    await app.launch();
    await comeToAnEnd(app);
    return await whatIsWrong(app);
  } finally {
    await app.stop();
  }
}

/** Does the work to its end, or until the server is gone. */
async function isKilledIn(app: RunningApp, work: KilledWork): Promise<boolean> {
  try {
    await untilDone(app, work, await begin[work](app));
    return !app.isRunning;
  } catch (error) {
    // A request broke off, since the process is going.
    await app.untilGone();
    if (app.isRunning) throw error;
    return true;
  }
}

/** Lets time pass until what was begun last is over, and no longer: other work has other changes. */
async function untilDone(app: RunningApp, work: KilledWork, begun: string): Promise<void> {
  for (let i = 0; i < MOST_POINTS; i++) {
    const isOver =
      work === 'rings'
        ? (await app.api<StagedSummary[]>('/staged-rollouts')).some(
            (one) => one.id === begun && one.endedAt !== null,
          )
        : work === 'rollout' || work === 'attach'
          ? (await app.api<Rollout[]>('/rollouts')).some((one) => one.id === begun && one.endedAt !== null)
          : (await allJobs(app)).some(
              (job) => job.id === begun && job.state !== 'waiting' && job.state !== 'running',
            );
    if (isOver) return;
    await app.api('/estate/clock', { action: 'next event' });
  }
  throw new Error(`${work} does not come to its end`);
}

/** Each gives the id of its job, or of its rollout. */
const begin: Readonly<Record<KilledWork, (app: RunningApp) => Promise<string>>> = {
  pool: async (app) => {
    const [line] = await linesOf(app);
    const { jobId } = await app.api<{ jobId: string }>(
      '/pools',
      smallPool('kill-points', line?.versions.find((one) => one.state === 'approved')?.id, 'WCL-K-#', 2),
    );
    return jobId;
  },
  job: async (app) => {
    const [line] = await linesOf(app);
    return (await app.api<{ jobId: string }>(`/lines/${line?.id ?? ''}/builds`, {})).jobId;
  },
  cut: async (app) => {
    const [line] = await linesOf(app);
    const at = `/lines/${line?.id ?? ''}`;
    for (const [path, body] of [
      ['/builds', {}],
      ['/machine', { action: 'shut down' }],
    ] as const)
      await untilDone(app, 'job', (await app.api<{ jobId: string }>(`${at}${path}`, body)).jobId);
    return (await app.api<{ jobId: string }>(`${at}/versions`, {})).jobId;
  },
  package: async (app) => {
    const rows = [{ name: 'Ostrand Forms', version: '3.1' }];
    return (await app.api<{ jobId: string }>('/bulk', { action: 'draft', rows })).jobId;
  },
  rollout: async (app) => {
    const { poolId, imageVersionId } = await smallestRollout(app);
    return (await app.api<{ id: string }>('/rollouts', nightlyRollout(poolId, imageVersionId, 2))).id;
  },
  // One package less, while people work on.
  attach: async (app) => {
    const { poolId, plan } = await smallestRollout(app);
    const [use] = (await app.api<BlendUse[]>('/blends')).filter((one) => one.poolId === poolId);
    const body = {
      ...plan,
      poolId,
      imageVersionId: use?.current?.imageVersionId ?? '',
      packageVersionIds: use?.current?.packages.slice(1).map(({ id }) => id) ?? [],
    };
    return (await app.api<{ id: string }>('/rollouts', body)).id;
  },
  // Half of the smallest pool, and then the other half.
  rings: async (app) => {
    const { poolId, imageVersionId, plan } = await smallestRollout(app);
    const gate = {
      finishedShare: 1,
      soakHours: 0,
      needsApproval: false,
      watchesSignIns: false,
      goesBack: false,
    };
    const half = { by: 'share', percent: 50, order: 'name' };
    const rings = [
      { name: 'half', poolId, take: half, plan, gate },
      { name: 'rest', poolId, take: { by: 'rest' }, plan, gate },
    ];
    const order = await app.api<{ id: string }>('/ring-orders', { name: 'kill points', rings });
    const contents = { imageVersionId, packageVersionIds: [] };
    const body = { orderId: order.id, revision: 1, contents };
    return (await app.api<{ id: string }>('/staged-rollouts', body)).id;
  },
  // To another image, and two hosts start with it.
  switch: async (app) => {
    const [pool] = (await app.api<Streaming>('/streaming')).pools;
    const version = pool?.versions.find((one) => one.refusal === '');
    const at = `/pools/${pool?.id ?? ''}`;
    await app.api(`${at}/switch`, { imageVersionId: version?.id });
    const hosts = ['WCL-DG-01', 'WCL-DG-02'];
    return (await app.api<{ jobId: string }>(`${at}/actions`, { action: 'restart', hosts })).jobId;
  },
  chassis: async (app) => {
    await app.api('/chassis/rack-8/look', {});
    await app.api('/estate/clock', { action: 'next event' });
    const [pool] = (await app.api<Streaming>('/streaming')).pools;
    const version = pool?.versions.find((one) => one.hosts > 0);
    const { jobId } = await app.api<{ jobId: string }>('/pools', {
      ...smallPool('kill-points', version?.id, 'WCL-K-#', 2),
      clone: 'network',
      chassis: 'rack-8',
      slots: [1, 2],
      size: 'as found',
      store: 'stream-8',
      places: [{ site: 'rack-8', network: 'scanning-2', datastore: 'local' }],
    });
    return jobId;
  },
  first: async (app) => {
    const { draft } = await app.api<{ draft: object }>('/first-desktops');
    return (await app.api<{ jobId: string }>('/first-desktops', draft)).jobId;
  },
};

/** Of the smallest pool, to the newest approved version that it does not run. */
async function smallestRollout(app: RunningApp) {
  const pools = await app.api<PoolSummary[]>('/pools');
  const smallest = [...pools].sort((a, b) => a.hosts - b.hosts).find((one) => one.hosts > 0);
  const version = (await linesOf(app))
    .find((one) => one.id === smallest?.lineId)
    ?.versions.find((one) => one.state === 'approved' && one.id !== smallest?.blend?.imageVersionId);
  const {
    poolId,
    imageVersionId,
    packageVersionIds: _packages,
    isRemake: _remake,
    onlyHosts: _hosts,
    ...plan
  } = nightlyRollout(smallest?.id, version?.id, 2);
  return { poolId, imageVersionId, plan };
}

const linesOf = (app: RunningApp) =>
  app.api<{ id: string; versions: { id: string; state: string }[] }[]>('/lines');
