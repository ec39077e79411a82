/** What a month costs with many rollouts, each of a pool of its own. */
import { createHash } from 'node:crypto';
import type { Application } from '@vatline/server/application';
import { addLargePool } from './large-pool.ts';

const HOSTS = 5;
const ROUNDS = 20;

export interface MonthCost {
  /** Milliseconds until the whole answer is there, the median of some. */
  readonly ask: number;
  readonly windows: number;
}

/** Adds so many rollouts, each on every night of a month with one host at a time, and asks for the month. */
export async function monthCost(app: Application, address: string, rollouts: number): Promise<MonthCost> {
  for (let i = 0; i < rollouts; i++) await addRollout(app, i);
  const from = app.estate.clock.now();
  const path = `${address}/api/v1/planned?from=${from}&to=${from + 35 * 86_400_000}`;
  const ask = async () => {
    const begun = performance.now();
    const answer = (await (await fetch(path)).json()) as { planned: unknown[] };
    return { ms: performance.now() - begun, windows: answer.planned.length };
  };
  const asked = [];
  for (let i = 0; i < ROUNDS; i++) asked.push(await ask());
  const sorted = asked.map(({ ms }) => ms).sort((a, b) => a - b);
  return { ask: sorted[ROUNDS / 2] ?? NaN, windows: asked.at(-1)?.windows ?? 0 };
}

/** Written down as a start writes it; its forecasts are not what is measured. */
async function addRollout(app: Application, number: number): Promise<void> {
  const { db, estate } = app;
  const { poolId, newestId } = await addLargePool(app, `month-${number}`, HOSTS);
  const now = estate.clock.now();
  const id = (what: string) =>
    `${what}-${createHash('sha1').update(`${what} ${poolId}`).digest('hex').slice(0, 12)}`;
  const [blend, plan, rollout] = [id('blend'), id('plan'), id('rollout')];
  const { blend_id } = await db
    .selectFrom('pool')
    .select('blend_id')
    .where('id', '=', poolId)
    .executeTakeFirstOrThrow();
  await db
    .insertInto('blend')
    .values({ id: blend, pool_id: poolId, number: 2, image_version_id: newestId, made_ms: now })
    .execute();
  const hour = `0${number % 5}`;
  await db
    .insertInto('plan')
    .values({
      id: plan,
      window_rule: 'FREQ=DAILY',
      window_start: `${hour}:00`,
      window_end: `${hour}:45`,
      zone: 'Europe/Dublin',
      batch: 1,
      max_unavailable: 1,
      drain_limit_minutes: 0,
      reserve: null,
    })
    .execute();
  await db
    .insertInto('rollout')
    .values({
      id: rollout,
      pool_id: poolId,
      from_blend_id: blend_id ?? blend,
      to_blend_id: blend,
      state: 'asleep',
      plan_id: plan,
      is_return: 0,
      started_ms: now,
      windows_from_ms: now,
      ended_ms: null,
      promised_ms: null,
      promised_p10_ms: null,
      promised_p50_ms: null,
      return_batch: null,
      seed: number,
    })
    .execute();
  const hosts = await db.selectFrom('host').select('id').where('pool_id', '=', poolId).execute();
  await db
    .insertInto('rollout_host')
    .values(
      hosts.map((host, i) => ({
        rollout_id: rollout,
        host_id: host.id,
        number: i,
        stage: 'waiting' as const,
        way: null,
        attempts: 0,
        started_ms: null,
        work_ms: null,
        finished_ms: null,
        error: null,
      })),
    )
    .execute();
}
