/** Sign-ins on the hosts of a rollout, after their change and before it. */
import { signInHealth, type SignInHealth } from '@vatline/core/rollout/rings/sign-in-health';
import { DAY, type Instant } from '@vatline/core/time/instant';
import type { Parts } from '../../platform/parts.ts';
import type { RolloutRow } from '../tables.ts';

/** A day has every hour once, with the crowds of each; the three before it are as many people again. */
const BEFORE = 3 * DAY;
/** Hosts that are looked at; a median of theirs is that of all. */
const MOST_HOSTS = 100;

/** Of the first hosts that were changed: from then on, against the days before the rollout on the same ones. */
export async function signInsAfter(
  { db, estate }: Pick<Parts, 'db' | 'estate'>,
  rollout: RolloutRow,
  now: Instant,
): Promise<SignInHealth> {
  const hosts = await db
    .selectFrom('rollout_host')
    .innerJoin('known_host', 'known_host.id', 'rollout_host.host_id')
    .innerJoin('pool', 'pool.id', 'known_host.pool_id')
    .select(['known_host.name', 'finished_ms as changedAt', 'pool.name as pool'])
    .where('rollout_id', '=', rollout.id)
    .where('stage', '=', 'done')
    .orderBy('finished_ms')
    .limit(MOST_HOSTS)
    .execute();
  const [changed, earlier]: [number[], number[]] = [[], []];
  for (const { name, changedAt, pool } of hosts) {
    changed.push(...(await estate.activity.signInSeconds(pool, name, changedAt ?? now, now)));
    const began = rollout.started_ms;
    earlier.push(...(await estate.activity.signInSeconds(pool, name, began - BEFORE, began)));
  }
  return signInHealth(changed, earlier);
}
