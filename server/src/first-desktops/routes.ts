/** First desktops over HTTP: sensible values, what they come to, beginning, and how far it is. */
import {
  firstDesktopsEndpoints,
  type FirstDraft,
  type FirstPreview,
  type FirstProgress,
} from '@vatline/contract/first-desktops';
import { memberships } from '@vatline/core/access/see-as';
import { proposeFirst } from '@vatline/core/first-desktops/propose';
import { firstDesktopsTime } from '@vatline/core/first-desktops/time';
import { planBuild } from '@vatline/core/image/checkpoint-plan';
import { describeStep } from '@vatline/core/image/describe-step';
import { leanHardware } from '@vatline/core/image/hardware';
import { usualImageBytes } from '@vatline/core/pool/assumptions';
import type { Fault } from '@vatline/core/result';
import { MINUTE } from '@vatline/core/time/instant';
import { assignments, peopleReached } from '../access/assignments.ts';
import { nextBuild } from '../image/build-job.ts';
import { cutInput } from '../image/cut-job.ts';
import { lineNote } from '../image/line-note.ts';
import type { ImageStore } from '../image/store.ts';
import { fromJson } from '../platform/database.ts';
import type { Door } from '../platform/door.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { invalid, notFound } from '../platform/problem.ts';
import type { JoinAccounts } from '../directory/join-accounts.ts';
import type { PoolStore } from '../pool/pools.ts';
import { previewPool } from '../pool/preview.ts';
import { FIRST_DESKTOPS, type FirstInput } from './job.ts';
import { atFieldsOfBench, poolDraftOf } from './pool-of.ts';
import { recipeOf, systemFaults } from './recipe.ts';

interface Stores {
  readonly images: ImageStore;
  readonly pools: PoolStore;
  readonly joinAccounts: JoinAccounts;
}

export function firstDesktopsRoutes(door: Door, parts: Parts, stores: Stores): void {
  door.serve(firstDesktopsEndpoints.propose, () => propose(parts, stores));
  door.serve(firstDesktopsEndpoints.preview, ({ body }) => preview(parts, stores, body));
  door.serve(firstDesktopsEndpoints.begin, ({ body }) => begin(parts, stores, body));
  door.serve(firstDesktopsEndpoints.progress, ({ params }) => progress(parts, stores, params.id));
}

async function groupsOf({ estate }: Parts) {
  const reach = peopleReached(await estate.directory.groups());
  return [...reach].map(([name, people]) => ({ name, people }));
}

async function propose(parts: Parts, { images }: Stores) {
  const { hypervisor, directory, sources } = parts.estate;
  const { media, buildUnit } = await sources.current();
  const groups = await groupsOf(parts);
  const sites = await hypervisor.sites();
  const chosen = proposeFirst({ sites, units: await directory.units(), buildUnit, groups });
  const names = new Set(await images.lines.names());
  const newest = media.at(-1);
  const draft: FirstDraft = {
    line: freeName('First desktop', names),
    system: newest?.system ?? '',
    edition: newest?.editions[0] ?? '',
    withUpdates: true,
    withTools: true,
    pool: freeName('first-desktops', await poolNames(parts)),
    count: 2,
    sessionLimit: 4,
    pattern: 'WCL-FIRST-##',
    ...chosen,
  };
  return {
    draft,
    media: media.map(({ system, editions }) => ({ system, editions: [...editions] })),
    groups,
    onTheWay: await onTheWay(parts),
  };
}

/** The newest ones, while their image or their hosts are being made, or that is stopped by a failure. */
async function onTheWay({ db }: Parts): Promise<string | null> {
  const row = await db
    .selectFrom('job')
    .select(['id', 'state', 'input_json'])
    .where('kind', '=', FIRST_DESKTOPS)
    .orderBy('created_ms', 'desc')
    .executeTakeFirst();
  if (!row || row.state === 'cancelled') return null;
  if (row.state !== 'done') return row.id;
  const { poolId } = fromJson<FirstInput>(row.input_json);
  const making = await db
    .selectFrom('job')
    .select('id')
    .where('subject', '=', `pool:${poolId}`)
    .where('state', 'in', ['waiting', 'running', 'paused'])
    .executeTakeFirst();
  return making ? row.id : null;
}

/** The name, or the name with the first number that is free. */
function freeName(base: string, taken: ReadonlySet<string>): string {
  for (let n = 1; ; n++) {
    const name = n === 1 ? base : `${base}${base.includes(' ') ? ' ' : '-'}${n}`;
    if (!taken.has(name)) return name;
  }
}

async function poolNames({ db }: Parts): Promise<ReadonlySet<string>> {
  const rows = await db.selectFrom('pool').select('name').execute();
  return new Set(rows.map((row) => row.name));
}

async function preview(
  parts: Parts,
  { images, joinAccounts }: Stores,
  draft: FirstDraft,
): Promise<FirstPreview> {
  const sources = await parts.estate.sources.current();
  const steps = recipeOf(draft, sources);
  const groups = await groupsOf(parts);
  const own: Fault[] = [...systemFaults(draft, sources)];
  if (draft.line === '') own.push({ path: 'line', message: 'The name is empty' });
  if ((await images.lines.names()).includes(draft.line))
    own.push({ path: 'line', message: `There is an image line named ${draft.line} already` });
  const group = groups.find((one) => one.name === draft.group);
  if (!group)
    own.push({
      path: 'group',
      message: draft.group ? `The directory has no group named ${draft.group}` : 'choose a group',
    });
  const { preview: pool } = await previewPool(parts, joinAccounts, poolDraftOf(draft, 'to-be'), {
    image_id: '',
    size_bytes: usualImageBytes,
    number: 1,
    state: 'draft',
    gone_ms: null,
    hasAgent: true,
  });
  const build = planBuild(leanHardware, steps, new Set(), new Map());
  const count = Math.max(0, Math.min(10_000, Math.floor(draft.count)));
  const time = firstDesktopsTime(build.minutesToRun, count, 8);
  return {
    steps: build.steps.map(({ step, minutes }) => ({ ...describeStep(step), minutes })),
    minutes: { build: time.buildMinutes, cut: time.cutMinutes, make: time.makeMinutes },
    p50Minutes: time.p50Minutes,
    p90Minutes: time.p90Minutes,
    imageBytes: usualImageBytes,
    people: group?.people ?? 0,
    names: pool.names.slice(0, 100),
    fit: pool.fit,
    conditions: pool.conditions,
    assumed: pool.assumed,
    faults: [...own, ...atFieldsOfBench(pool.faults)],
  };
}

/** The line, its recipe and the job are one change: there is all of it, or nothing. */
async function begin(
  parts: Parts,
  stores: Stores,
  draft: FirstDraft,
): Promise<{ jobId: string; lineId: string }> {
  const { faults, p90Minutes } = await preview(parts, stores, draft);
  if (faults.length > 0) throw invalid(faults);
  const { lines } = stores.images;
  const sources = await parts.estate.sources.current();
  const at = parts.estate.clock.now();
  const { job, lineId } = await parts.db.transact(async () => {
    // Of two at once the second finds the first one's line.
    if ((await lines.names()).includes(draft.line))
      throw invalid([{ path: 'line', message: `There is an image line named ${draft.line} already` }]);
    const id = await lines.create({
      name: draft.line,
      purpose: `desktops of ${draft.group}`,
      hardware: leanHardware,
      steps: recipeOf(draft, sources),
      at,
    });
    const line = await lines.get(id);
    const input: FirstInput = {
      draft,
      poolId: newId('pool'),
      build: await nextBuild(parts, stores.images, line),
      cut: cutInput(line, 'first desktops'),
      promisedAt: Math.round(at + p90Minutes * MINUTE),
    };
    const prepared = await parts.jobs.prepare({
      kind: FIRST_DESKTOPS,
      title: `First desktops for ${draft.group}`,
      subject: `line:${id}`,
      input,
    });
    await parts.jobs.enlist(prepared);
    await parts.journal.note({ ...lineNote(line, ' was begun, for first desktops'), at });
    return { job: prepared, lineId: id };
  });
  parts.jobs.begin(job.id);
  return { jobId: job.id, lineId };
}

async function progress(parts: Parts, { images, pools }: Stores, jobId: string): Promise<FirstProgress> {
  const row = await parts.jobs.store.get(jobId);
  if (row?.kind !== FIRST_DESKTOPS) throw notFound('such first desktops');
  const { draft, poolId, cut, promisedAt } = fromJson<FirstInput>(row.input_json);
  const job = (await parts.jobs.newest(row.subject, 100)).find((one) => one.id === jobId);
  if (!job) throw notFound('such first desktops');
  const { name: line } = await images.lines.get(cut.lineId);
  const own = (await assignments(parts)).some((one) => one.poolId === poolId && one.group === draft.group);
  return {
    job,
    lineId: cut.lineId,
    line,
    group: draft.group,
    promisedAt,
    hosts: draft.count,
    pool: await poolOf(parts, pools, poolId),
    isAssigned: own,
    person: await somebodyOf(parts, draft.group),
  };
}

async function poolOf(parts: Parts, pools: PoolStore, poolId: string): Promise<FirstProgress['pool']> {
  const pool = (await pools.all()).find((one) => one.id === poolId);
  if (!pool) return null;
  const counts = await pools.hosts.counts(poolId);
  const [job] = await parts.jobs.newest(`pool:${poolId}`, 1);
  return { id: poolId, name: pool.name, hosts: counts.hosts, inService: counts.taking, job: job ?? null };
}

/** The first by account whom the group reaches, directly or by nesting. */
async function somebodyOf({ estate }: Parts, group: string): Promise<FirstProgress['person']> {
  const groups = await estate.directory.groups();
  const accounts = [...new Set(groups.flatMap((one) => one.users))].sort();
  const account = accounts.find((one) => memberships(one, groups).paths.has(group));
  const person = account === undefined ? undefined : await estate.directory.person(account);
  return person ? { account: person.account, name: person.name } : null;
}
