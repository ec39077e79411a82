/** Starting rollouts: to a new blend, or back to an earlier one. */
import type { Plan, RolloutRequest } from '@vatline/contract/rollout';
import { blendFaults } from '@vatline/core/rollout/blends/checks';
import { allThatDiffer } from '@vatline/core/rollout/hosts-taken';
import { windowFromNow } from '@vatline/core/rollout/window-from-now';
import type { Forecast } from '@vatline/core/rollout/forecast/forecast';
import { wholeInstant, wholeMarks } from '@vatline/core/rollout/progress';
import { noticeFaults } from '@vatline/core/rollout/notice';
import { planFaults } from '@vatline/core/rollout/forecast/plan';
import { listWindows } from '@vatline/core/time/windows';
import type { Fault } from '@vatline/core/result';
import { hash32 } from '@vatline/core/random';
import { attachFaults } from '../package/attach-check.ts';
import { clashesByManifest } from '../package/clashes.ts';
import { newId } from '../platform/ids.ts';
import type { Parts } from '../platform/parts.ts';
import { conflict, invalid } from '../platform/problem.ts';
import { sourceRefusal } from '@vatline/core/pool/source-hold';
import type { BlendRow, HostRow, PoolRow } from '../pool/tables.ts';
import type { RolloutRow } from './tables.ts';
import { blendFacts } from './blends/facts.ts';
import { forecastOf } from './forecasting.ts';
import type { PlannedRollout, Plans } from './plans.ts';
import { addRevision } from './revisions.ts';

const RUNS = 1_000;

/** Everything wrong with a request, each at its field. */
export async function requestFaults(
  parts: Parts,
  request: RolloutRequest,
  planned: PlannedRollout,
  isReturn = false,
): Promise<Fault[]> {
  const faults: Fault[] = await choiceFaults(parts, request);
  faults.push(...noticeFaults(request.notice));
  const held = isReturn ? undefined : await heldBack(parts, request, planned.pool);
  if (held !== undefined) faults.push({ path: 'imageVersionId', message: held });
  if (planned.hosts.length === 0)
    faults.push({
      path: 'imageVersionId',
      message:
        request.onlyHosts.length > 0
          ? 'the chosen hosts run exactly this already; make them anew, or choose another version'
          : 'every host runs exactly this already; choose another version or package',
    });
  // How long the work takes is nobody's choice; windows are looked at below, with what never happens.
  else
    faults.push(
      ...planFaults(planned.plan)
        .filter(({ path }) => !/^(work|window|limits)\./.test(path))
        .concat(makesNone(planned)),
    );
  const windows = listWindows(planned.ring.window, planned.plan.from, 1);
  if (!windows.ok) faults.push(...windows.error.map((fault) => ({ ...fault, path: windowPath(fault.path) })));
  else if (windows.value.length === 0) faults.push({ path: 'window.rule', message: 'never happens' });
  const first = windows.ok ? windows.value[0] : undefined;
  const { from, resumeAt = from } = planned.plan;
  const at = Math.max(first?.start ?? from, resumeAt);
  const clashes = await clashesByManifest(parts, request.packageVersionIds);
  const blend = await blendFacts(parts, { ...request, pool: planned.pool.name, at, clashes, isReturn });
  faults.push(...(blend.facts ? blendFaults(blend.facts) : blend.unknown));
  return faults;
}

/** What a hypervisor makes at a time is nobody's choice here either; where that is nothing, no host would ever begin. */
function makesNone({ plan: { limits = [] } }: PlannedRollout): Fault[] {
  return limits
    .filter(({ atOnce }) => atOnce < 1)
    .map(({ name }) => ({
      path: 'batch',
      message: `${name} makes no machines now, so no host would ever begin`,
    }));
}

/** Where a fault of a window rule stands in its plan. */
export function windowPath(path: string): string {
  return path === 'zone' ? 'zone' : `window.${path}`;
}

/** Names that are no hosts of the pool. */
async function choiceFaults({ db }: Parts, { poolId, onlyHosts }: RolloutRequest): Promise<Fault[]> {
  if (onlyHosts.length === 0) return [];
  const rows = await db.selectFrom('host').select('name').where('pool_id', '=', poolId).execute();
  const known = new Set(rows.map((row) => row.name));
  return onlyHosts.flatMap((name, i) =>
    known.has(name) ? [] : [{ path: `onlyHosts.${i}`, message: `the pool has no host ${name}` }],
  );
}

async function heldBack(
  { db }: Parts,
  { imageVersionId }: RolloutRequest,
  { name, source_hold, blend_id }: PoolRow,
): Promise<string | undefined> {
  const blend = await db
    .selectFrom('blend')
    .select('image_version_id')
    .where('id', '=', blend_id ?? '')
    .executeTakeFirst();
  const held = { pool: name, hold: source_hold, versionId: blend?.image_version_id ?? null };
  return sourceRefusal(held, imageVersionId);
}

/** Nothing can be reckoned from calendars that are not there. */
export async function refuseUnknownCalendars(
  { calendars }: Plans,
  { calendarIds }: Pick<Plan, 'calendarIds'>,
  at = '',
): Promise<void> {
  const unknown = new Set(await calendars.unknown(calendarIds));
  const faults = calendarIds.flatMap((id, i) =>
    unknown.has(id) ? [{ path: `${at}calendarIds.${i}`, message: 'there is no such calendar' }] : [],
  );
  if (faults.length > 0) throw invalid(faults);
}

/** What hosts would still attach at the first window but no more at the last: they are worked on till then. */
export function faultsAtTheEnd(
  parts: Parts,
  request: RolloutRequest,
  planned: PlannedRollout,
  finish: { readonly p90: number | null },
): Promise<Fault[]> {
  const at = finish.p90 === null ? [] : [finish.p90];
  return attachFaults(parts, request.packageVersionIds, planned.pool.name, at);
}

/** Refuses a second rollout on one pool, and one on hosts that are on their way to something else. */
async function refuseIfOpen({ db }: Pick<Parts, 'db'>, poolId: string): Promise<void> {
  const open = await db
    .selectFrom('rollout')
    .select('id')
    .where('pool_id', '=', poolId)
    .where('ended_ms', 'is', null)
    .executeTakeFirst();
  if (open)
    throw conflict('A rollout of this pool is under way; wait for its end or stop it first', 'poolId');
  const switched = await db
    .selectFrom('stream_switch')
    .select('pool_id')
    .where('pool_id', '=', poolId)
    .executeTakeFirst();
  if (switched)
    throw conflict(
      'Hosts of this pool wait for another image at their next start; let that end or switch them back first',
      'poolId',
    );
}

/** Of a forecast what a rollout keeps, to be held against what comes of it. */
type Promised = Pick<Forecast, 'finish' | 'progress'>;

/** A rollout that was found good and forecast, and is not written down yet. */
export interface PreparedRollout {
  readonly request: RolloutRequest;
  readonly planned: PlannedRollout;
  readonly at: number;
  readonly promised: Promised & Pick<Forecast, 'minSeatsLeft'>;
  /** The blend that a way back leaves: a rollout that was stopped half way never made it the pool's. */
  readonly returnsFrom: string | undefined;
}

/** Throws a refusal with everything that is wrong with the request. */
export async function prepareRollout(
  parts: Parts,
  plans: Plans,
  request: RolloutRequest,
  { returnsFrom, windowsFrom }: { readonly returnsFrom?: string; readonly windowsFrom?: number } = {},
): Promise<PreparedRollout> {
  const at = parts.estate.clock.now();
  const from = windowsFrom ?? at;
  const options = { seed: hash32(request.poolId), from, runs: RUNS };
  await refuseUnknownCalendars(plans, request);
  const found = await plans.forecastable(request, options);
  const planned = { ...found, plan: { ...found.plan, resumeAt: at } };
  const faults = await requestFaults(parts, request, planned, returnsFrom !== undefined);
  if (faults.length > 0) throw invalid(faults);
  const promised = await forecastOf(parts, planned.plan);
  const atTheEnd = await faultsAtTheEnd(parts, request, planned, promised.finish);
  if (atTheEnd.length > 0) throw invalid(atTheEnd);
  return { request, planned, at, promised, returnsFrom };
}

/** Writes a rollout down, in a transaction of the caller's. Throws a refusal when another one is open by then. */
export async function keepRollout(parts: Parts, plans: Plans, prepared: PreparedRollout): Promise<string> {
  const { request, planned, at, promised, returnsFrom } = prepared;
  await refuseIfOpen(parts, request.poolId);
  const isReturn = returnsFrom !== undefined;
  const planId = await plans.add(planIn(request));
  const to = await blendFor(plans, request, at);
  const id = newId('rollout');
  await parts.db
    .insertInto('rollout')
    .values({
      id,
      pool_id: request.poolId,
      from_blend_id: returnsFrom ?? planned.pool.blend_id ?? to.id,
      to_blend_id: to.id,
      state: 'asleep',
      is_return: isReturn ? 1 : 0,
      is_remake: request.isRemake ? 1 : 0,
      is_part: request.onlyHosts.length > 0 ? 1 : 0,
      plan_id: planId,
      started_ms: at,
      windows_from_ms: planned.plan.from,
      ended_ms: null,
      return_batch: null,
      ...promiseColumns(promised),
      seed: planned.plan.seed,
    })
    .execute();
  await addRevision(parts, {
    rollout_id: id,
    plan_id: planId,
    at_ms: at,
    says: '',
    why: '',
    expected_ms: wholeInstant(promised.finish.p90),
  });
  await addHosts(parts, id, planned.hosts, to.id);
  await parts.journal.note({
    at,
    kind: 'rollout',
    subject: `rollout:${id}`,
    text: `${planned.pool.name}: ${planned.hosts.length} hosts ${isReturn ? 'go back to' : 'are to run'} blend ${to.number}`,
    link: `/rollouts/${id}`,
  });
  return id;
}

/** A forecast as a rollout keeps it. */
export function promiseColumns({ finish, progress }: Promised) {
  return {
    promised_p10_ms: wholeInstant(finish.p10),
    promised_p50_ms: wholeInstant(finish.p50),
    promised_ms: wholeInstant(finish.p90),
    promised_progress_json: JSON.stringify(wholeMarks(progress)),
  };
}

/** SQLite takes about 32,000 values in a statement. */
const HOSTS_AT_ONCE = 500;

async function addHosts(
  { db }: Parts,
  rolloutId: string,
  hosts: readonly HostRow[],
  toBlendId: string,
): Promise<void> {
  for (let i = 0; i < hosts.length; i += HOSTS_AT_ONCE) {
    const some = hosts.slice(i, i + HOSTS_AT_ONCE);
    const rows = some.map((host, n) => ({
      rollout_id: rolloutId,
      host_id: host.id,
      number: i + n,
      stage: 'waiting' as const,
      way: null,
      attempts: 0,
      started_ms: null,
      work_ms: null,
      finished_ms: null,
      error: null,
    }));
    await db.insertInto('rollout_host').values(rows).execute();
    const ids = some.map((host) => host.id);
    await db.updateTable('host').set({ next_blend_id: toBlendId }).where('id', 'in', ids).execute();
  }
}

/**
 * Starts a rollout; all is written at once, or nothing. What `also` writes about it goes into the
 * same transaction.
 */
export async function startRollout(
  parts: Parts,
  plans: Plans,
  request: RolloutRequest,
  also: (id: string) => Promise<void> = () => Promise.resolve(),
  windowsFrom?: number,
): Promise<string> {
  await refuseIfOpen(parts, request.poolId);
  const prepared = await prepareRollout(
    parts,
    plans,
    request,
    windowsFrom === undefined ? {} : { windowsFrom },
  );
  const id = await parts.db.transact(async () => {
    const kept = await keepRollout(parts, plans, prepared);
    await also(kept);
    return kept;
  });
  parts.journal.tell('rollout', 'pool', 'package', 'line');
  return id;
}

/** The blend of the pool with these contents, or a new one. */
async function blendFor({ pools }: Plans, request: RolloutRequest, at: number): Promise<BlendRow> {
  const { poolId, imageVersionId, packageVersionIds } = request;
  const [known] = await pools.blends.sameAs(poolId, request);
  return known ?? pools.blends.add(poolId, imageVersionId, packageVersionIds, at);
}

/** What of a request is kept as its plan; the rest stands in the blend that it leads to. */
export function planIn(request: RolloutRequest): Plan {
  const { window, zone, calendarIds, batch, maxUnavailable, drainLimitMinutes, reserve, stop, notice } =
    request;
  return { window, zone, calendarIds, batch, maxUnavailable, drainLimitMinutes, reserve, stop, notice };
}

/**
 * The way back of a rollout: to the blend it began from, beginning with the next full minute.
 * `batch` undefined keeps the batch of the rollout. Throws a refusal when there is no way back.
 */
export async function prepareReturn(
  parts: Parts,
  plans: Plans,
  row: RolloutRow,
  batch: number | undefined,
): Promise<PreparedRollout> {
  const { pools } = plans;
  const plan = await plans.get(row.plan_id);
  const from = await pools.blends.get(row.from_blend_id);
  const hosts = await pools.hosts.of(row.pool_id);
  const changed = hosts.filter((host) => host.blend_id !== from.id || host.work === 'failed').length;
  const size = Math.max(1, Math.min(batch ?? plan.batch, changed));
  const back: RolloutRequest = {
    ...plan,
    poolId: row.pool_id,
    imageVersionId: from.image_version_id,
    packageVersionIds: await pools.blends.packageIdsOf(from.id),
    ...allThatDiffer,
    // What has to be undone does not wait for the next working day.
    calendarIds: [],
    window: windowFromNow(plan.zone, parts.estate.clock.now()),
    batch: size,
    maxUnavailable: Math.max(size, plan.maxUnavailable),
  };
  return prepareRollout(parts, plans, back, { returnsFrom: row.to_blend_id });
}
