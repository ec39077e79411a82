/** Writing rollouts through rings down. */
import type { PlannedRing, RolloutContents } from '@vatline/contract/rings/ring';
import type { Forecast } from '@vatline/core/rollout/forecast/forecast';
import type { Instant } from '@vatline/core/time/instant';
import { whoActs } from '../../platform/acting.ts';
import { newId } from '../../platform/ids.ts';
import type { Parts } from '../../platform/parts.ts';
import type { Plans } from '../plans.ts';
import { ringColumns } from './planned-rings.ts';
import type { PlannedPart } from './planner.ts';

/** A rollout through rings as it is written down. */
export interface Beginning {
  readonly title: string;
  readonly order: { readonly id: string; readonly revision: number } | null;
  readonly contents: RolloutContents;
  readonly rings: readonly PlannedRing[];
  readonly notBefore: Instant;
  readonly followsCut: boolean;
  readonly seed: number;
  /** As forecast for the rings that change hosts, by number; nothing for what follows a cut. */
  readonly forecast?: {
    readonly whole: Forecast;
    readonly of: readonly (Forecast['rings'][number] | undefined)[];
  };
}

/** Writes one down with its rings, in a transaction of the caller's, and gives its id. */
export async function keepStaged(
  { db, estate }: Pick<Parts, 'db' | 'estate'>,
  plans: Plans,
  beginning: Beginning,
): Promise<string> {
  const { title, order, contents, rings, notBefore, followsCut, seed, forecast } = beginning;
  const id = newId('staged');
  const promised = forecast?.whole.finish.p90 ?? null;
  await db
    .insertInto('staged_rollout')
    .values({
      id,
      title,
      order_id: order?.id ?? null,
      order_revision: order?.revision ?? null,
      image_version_id: contents.imageVersionId,
      follows_cut: followsCut ? 1 : 0,
      by_role: followsCut ? null : (whoActs() ?? null),
      state: 'under way',
      held_why: '',
      asks_ms: null,
      not_before_ms: notBefore,
      started_ms: estate.clock.now(),
      ended_ms: null,
      promised_ms: promised === null ? null : Math.round(promised),
      seed,
    })
    .execute();
  const packages = contents.packageVersionIds.map((package_version_id, place) => ({
    staged_id: id,
    place,
    package_version_id,
  }));
  if (packages.length > 0) await db.insertInto('staged_package').values(packages).execute();
  const columns = await ringColumns(plans, rings);
  const rows = columns.map((row, i) => ({
    ...row,
    id: newId('ring'),
    staged_id: id,
    state: 'waiting' as const,
    rollout_id: null,
    note: '',
    began_ms: null,
    ...promiseOf(forecast?.of[i]),
  }));
  await db.insertInto('ring').values(rows).execute();
  return id;
}

/** Forecasts by number of the ring; those that change no host have none. */
export function byRing(
  planned: readonly PlannedPart[],
  { rings }: Forecast,
): (Forecast['rings'][number] | undefined)[] {
  let next = 0;
  return planned.map((part) => (part.planned.hosts.length > 0 ? rings[next++] : undefined));
}

function promiseOf(of: Forecast['rings'][number] | undefined) {
  const whole = (at: Instant | null | undefined) => (typeof at === 'number' ? Math.round(at) : null);
  return {
    promised_opens_ms: whole(of?.opens.p50),
    promised_p10_ms: whole(of?.finish.p10),
    promised_p50_ms: whole(of?.finish.p50),
    promised_p90_ms: whole(of?.finish.p90),
  };
}
